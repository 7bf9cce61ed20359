import { t } from "@lingui/core/macro";
import { NoConnection, Problem, type Schema } from "../../api/client";
import { seekTo } from "./frames";
import type { Clip } from "./upload";

/** The version of the landmark library whose files lie on this server. */
declare const __POSE__: string;
const files = `/pose/${__POSE__}/`;

export type Box = { x: number; y: number; size: number };
type Proposal = Schema["ClipProposal"];

/** Which of the library's points are the lanes of a proposal, in their order. */
const lanes = [11, 23, 25, 27, 29, 31, 12, 24, 26, 28, 30, 32];
/** The picture that is handed to the library, px a side; more helps nothing. */
const side = 384;
/** Frames before the library is closed and opened anew, to keep its memory bounded. */
const batch = 100;
/** Frames without anybody at the beginning before it is given up. */
const emptyLeast = 12;
/** How much larger than the body the box that follows it is. */
const room = 1.35;

type Landmark = { x: number; y: number; visibility?: number };
type Pose = {
  setOptions: (o: Record<string, unknown>) => void;
  onResults: (fn: (r: { poseLandmarks?: Landmark[] }) => void) => void;
  send: (i: { image: HTMLCanvasElement }, at: number) => Promise<void>;
  close: () => Promise<void>;
};
type PoseClass = new (o: { locateFile: (f: string) => string }) => Pose;

/** A sentence for the coach; manual marking goes on as before. */
export class CantPropose extends Error {}

let loading: Promise<PoseClass> | null = null;

/** Loads the library once, when it is first asked for. */
function library(): Promise<PoseClass> {
  loading ??= new Promise<PoseClass>((done, fail) => {
    const s = document.createElement("script");
    s.src = `${files}pose.js`;
    s.onload = () => {
      const c = (window as unknown as { Pose?: PoseClass }).Pose;
      if (c) done(c);
      else fail(new CantPropose(t`The landmark library did not start. Mark by hand.`));
    };
    s.onerror = () => {
      loading = null;
      fail(new CantPropose(t`The landmark library could not be loaded. Mark by hand, or try again.`));
    };
    document.head.append(s);
  });
  return loading;
}

/** Whether this browser can do it at all. */
export function missing(): string {
  const c = document.createElement("canvas");
  if (!c.getContext("webgl2") && !c.getContext("webgl"))
    return t`This browser has no WebGL, so points can't be proposed here. Mark by hand.`;
  if (typeof WebAssembly === "undefined")
    return t`This browser can't run the landmark library. Mark by hand.`;
  return "";
}

async function open(): Promise<{ pose: Pose; ask: (c: HTMLCanvasElement) => Promise<Landmark[] | null> }> {
  const Library = await library();
  const pose = new Library({ locateFile: (f) => files + f });
  pose.setOptions({
    modelComplexity: 1,
    smoothLandmarks: false,
    minDetectionConfidence: 0.5,
    useCpuInference: true,
    enableSegmentation: false,
    selfieMode: false,
  });
  let got: Landmark[] | null = null;
  pose.onResults((r) => {
    got = r.poseLandmarks ?? null;
  });
  let at = 0;
  return {
    pose,
    ask: async (image) => {
      got = null;
      at += 100; // strictly rising, and always the same
      await pose.send({ image }, at);
      return got;
    },
  };
}

/** How far a body may leave the middle of its box, share of the box, before the box follows. */
const slack = 0.08;

/** The box round a body for the next frame: the same while the body is in its middle. */
export function follow(box: Box, p: readonly number[], width: number, height: number): Box {
  const xs = p.filter((_, i) => i % 3 === 0);
  const ys = p.filter((_, i) => i % 3 === 1);
  const top = Math.min(...ys);
  const tall = Math.max(...ys) - top;
  const size = Math.min(Math.max(width, height), Math.max(box.size * 0.9, tall * room * 1.25));
  const x = (Math.min(...xs) + Math.max(...xs)) / 2;
  const y = top + tall / 2 - tall * 0.08; // the head is over the shoulders
  const stays =
    Math.abs(x - box.x - box.size / 2) < slack * box.size &&
    Math.abs(y - box.y - box.size / 2) < slack * box.size &&
    Math.abs(size - box.size) < 2 * slack * box.size;
  if (stays) return box;
  return { x: Math.round(x - size / 2), y: Math.round(y - size / 2), size: Math.round(size) };
}

/** What a body covers of a picture, its head included. */
export function covers(p: readonly number[]): { x: number; y: number; width: number; height: number } {
  const xs = p.filter((_, i) => i % 3 === 0);
  const ys = p.filter((_, i) => i % 3 === 1);
  const tall = Math.max(...ys) - Math.min(...ys);
  const x = Math.min(...xs) - 0.2 * tall;
  const y = Math.min(...ys) - 0.35 * tall;
  return { x, y, width: Math.max(...xs) + 0.2 * tall - x, height: Math.max(...ys) + 0.1 * tall - y };
}

/** A body's points in px of the picture, with their trust; none where nobody was found. */
function numbers(got: Landmark[] | null, box: Box): number[] {
  if (!got) return [];
  return lanes.flatMap((k) => {
    const l = got[k] ?? { x: 0, y: 0 };
    return [
      Math.round((box.x + l.x * box.size) * 10) / 10,
      Math.round((box.y + l.y * box.size) * 10) / 10,
      Math.round(Math.min(1, Math.max(0, l.visibility ?? 0)) * 100) / 100,
    ];
  });
}

/** Sends a video to a frame and waits until it is there. */
function seek(v: HTMLVideoElement, second: number): Promise<void> {
  if (Math.abs(v.currentTime - second) < 1e-4 && v.readyState >= 2 && !v.seeking) return Promise.resolve();
  return new Promise((done, fail) => {
    const off = () => {
      v.removeEventListener("seeked", on);
      v.removeEventListener("error", bad);
    };
    const on = () => {
      off();
      done();
    };
    const bad = () => {
      off();
      fail(new CantPropose(t`The clip could not be read any further. Mark by hand.`));
    };
    v.addEventListener("seeked", on);
    v.addEventListener("error", bad);
    v.currentTime = second;
  });
}

/** The picture to look at: a video that is sent from frame to frame, or a photo. */
async function source(clip: Clip): Promise<HTMLVideoElement | HTMLImageElement> {
  const src = `/api/clips/${clip.id}/file`;
  if (clip.kind === "photo") {
    const i = new Image();
    i.src = src;
    await i.decode();
    return i;
  }
  const v = document.createElement("video");
  v.muted = true;
  v.preload = "auto";
  v.src = src;
  await new Promise((done, fail) => {
    v.onloadeddata = done;
    v.onerror = () => fail(new CantPropose(t`The clip could not be read. Mark by hand.`));
  });
  return v;
}

/** perFrame is in ms, without the loading of the library. */
export type Progress = { done: number; of: number; found: number; perFrame: number };

/**
 * Proposes the points of a stretch of frames. The same frames and the same box give
 * the same points: every batch begins afresh.
 */
export async function propose(
  clip: Clip,
  range: { from: number; to: number },
  box: Box | null,
  progress: (p: Progress) => void,
  signal: AbortSignal,
): Promise<Proposal> {
  const not = missing();
  if (not) throw new CantPropose(not);
  const from = await source(clip);
  const width = from instanceof HTMLVideoElement ? from.videoWidth : from.naturalWidth;
  const height = from instanceof HTMLVideoElement ? from.videoHeight : from.naturalHeight;
  const paper = document.createElement("canvas");
  paper.width = side;
  paper.height = side;
  const ink = paper.getContext("2d", { alpha: false });
  if (!ink) throw new CantPropose(t`This browser could not draw the frames. Mark by hand.`);
  const whole: Box = {
    x: (width - Math.max(width, height)) / 2,
    y: (height - Math.max(width, height)) / 2,
    size: Math.max(width, height),
  };
  let at = box ?? whole;
  const frames: number[][] = [];
  const rate = clip.marks.rate || 30;
  let found = 0;
  const show = (f: number) =>
    from instanceof HTMLVideoElement ? seek(from, seekTo(clip.times, rate, f)) : Promise.resolve();
  /** Who is found in three frames where the first body is taken away. */
  let elsewhere: number[][] = [];
  const somebodyElse = async () => {
    await lib?.pose.close();
    lib = await open();
    const others: number[][] = [];
    for (const share of [0.25, 0.5, 0.75]) {
      signal.throwIfAborted();
      const k = Math.floor(share * (frames.length - 1));
      const first = frames[k];
      if (!first?.length) continue;
      await show(range.from + k);
      const s = side / whole.size;
      const b = covers(first);
      ink.fillStyle = "#000";
      ink.fillRect(0, 0, side, side);
      ink.drawImage(from, whole.x, whole.y, whole.size, whole.size, 0, 0, side, side);
      ink.fillRect((b.x - whole.x) * s, (b.y - whole.y) * s, b.width * s, b.height * s);
      others.push(numbers(await lib.ask(paper), whole));
    }
    return others;
  };
  let ready = show(range.from);
  let begun = 0;
  let lib: Awaited<ReturnType<typeof open>> | null = null;
  try {
    for (let f = range.from; f <= range.to; f++) {
      signal.throwIfAborted();
      if (!lib || (f - range.from) % batch === 0) {
        await lib?.pose.close();
        lib = await open();
      }
      await ready;
      ink.fillStyle = "#000";
      ink.fillRect(0, 0, side, side);
      ink.drawImage(from, at.x, at.y, at.size, at.size, 0, 0, side, side);
      // The next frame is decoded while the library looks at this one.
      if (f < range.to) {
        ready = show(f + 1);
        ready.catch(() => {}); // it is awaited in the next round
      }
      const got = await lib.ask(paper);
      begun ||= performance.now(); // the first frame loads the weights
      const p = numbers(got, at);
      frames.push(p);
      if (p.length > 0) {
        found++;
        at = follow(at, p, width, height);
      } else if (found === 0 && frames.length >= emptyLeast) {
        throw new CantPropose(
          t`Nobody was found in the first ${emptyLeast} frames. Draw a box round the runner and propose again, or mark by hand.`,
        );
      }
      progress({
        done: frames.length,
        of: range.to - range.from + 1,
        found,
        perFrame: (performance.now() - begun) / Math.max(1, frames.length - 1),
      });
    }
    if (!box && found > 0) elsewhere = await somebodyElse();
  } catch (e) {
    if (e instanceof CantPropose || signal.aborted) throw e;
    throw new CantPropose(
      t`The landmark library stopped, most likely for want of memory. Propose a shorter stretch, or mark by hand.`,
    );
  } finally {
    await lib?.pose.close().catch(() => {});
    if (from instanceof HTMLVideoElement) {
      from.removeAttribute("src");
      from.load();
    }
  }
  if (found === 0)
    throw new CantPropose(
      t`Nobody was found. Draw a box round the runner and propose again, or mark by hand.`,
    );
  return {
    from: range.from,
    wide: width,
    high: height,
    elsewhere,
    model: `@mediapipe/pose ${__POSE__}, full`,
    frames,
  };
}

/** Keeps a proposal; the answer is what it gives. */
export async function keep(clip: string, p: Proposal): Promise<void> {
  const res = await fetch(`/api/clips/${clip}/proposal`, {
    method: "PUT",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify(p),
  }).catch(() => {
    throw new NoConnection();
  });
  if (!res.ok) throw new Problem(res.status, await res.json());
}
