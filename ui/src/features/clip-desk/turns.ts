import { type RefObject, useEffect, useRef, useState } from "react";
import { keep } from "./frames";
import type { Picture } from "./marked";

/** How long a frame may take before its number says that it is on its way, ms. */
const soon = 80;

/**
 * Two videos that take turns: one shows the frame asked for, the one behind is at the
 * next already; a frame that was seen before covers them until the video has come.
 */
export function useTurns({
  box,
  second,
  ahead,
  playing,
  speed,
  size,
  first,
  frameOf,
  onEnd,
  onTime,
  onThere,
}: {
  box: RefObject<HTMLDivElement | null>;
  second: number;
  ahead: number;
  playing: boolean;
  speed: number;
  size: Picture | null;
  /** The file's time of its first frame, s. */
  first: number;
  /** Which frame is on show at a time of the file, s. */
  frameOf: (second: number) => number;
  onEnd: () => void;
  onTime: (second: number) => void;
  /** Whether the frame asked for is on show; another one that came instead. */
  onThere: (there: boolean, instead?: number) => void;
}) {
  const videos = [useRef<HTMLVideoElement>(null), useRef<HTMLVideoElement>(null)] as const;
  const [front, setFront] = useState<0 | 1>(0);
  const video = videos[front];
  const kept = useRef(new Map<string, ImageBitmap>());
  const cover = useRef<HTMLCanvasElement>(null);
  // A browser's time of a frame may begin elsewhere than the file's own: the first picture
  // says by how much.
  const [shift, setShift] = useState<number | null>(null);
  useEffect(() => {
    const v = videos[0].current;
    if (!v || !size || shift !== null) return;
    const id = v.requestVideoFrameCallback((_, m) => setShift(m.mediaTime - first));
    v.currentTime = 0;
    return () => v.cancelVideoFrameCallback(id);
  }, [size, shift, first, videos[0]]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the turn itself asks for no frame
  useEffect(() => {
    const v = videos[front].current;
    const b = videos[1 - front]?.current;
    if (!v || playing || !size || shift === null) return;
    const to = (s: number) => Math.max(0, s + shift);
    const at = (e: HTMLVideoElement, s: number) => Math.abs(e.currentTime - to(s)) < 1e-4;
    const prepare = (e: HTMLVideoElement) => {
      if (!at(e, ahead)) e.currentTime = to(ahead);
    };
    const key = second.toFixed(4);
    const late = setTimeout(() => onThere(false), soon);
    let watched = 0;
    const show = (from?: HTMLVideoElement) => {
      box.current?.setAttribute("data-shown", key);
      if (!from) return;
      clearTimeout(late);
      onThere(true);
      cover.current?.classList.add("hidden");
      setTimeout(() => {
        if (at(from, second) && !from.seeking) keep(kept.current, key, from);
      });
    };
    const off = () => clearTimeout(late);
    if (at(v, second) && !v.seeking) {
      show(v);
      if (b) prepare(b);
      return off;
    }
    if (b && at(b, second) && !b.seeking && b.readyState >= 2) {
      setFront(front === 0 ? 1 : 0);
      show(b);
      prepare(v);
      return off;
    }
    const done = () => {
      if (!at(v, second)) return;
      show(v);
      if (b) prepare(b);
    };
    // A frame that was seen already is there at once; the video follows under it.
    const seen = kept.current.get(key);
    if (seen && cover.current) {
      cover.current.width = seen.width;
      cover.current.height = seen.height;
      cover.current.getContext("2d")?.drawImage(seen, 0, 0);
      cover.current.classList.remove("hidden");
      show();
      clearTimeout(late);
      onThere(true);
    }
    // What came is held against what was asked for.
    watched = v.requestVideoFrameCallback((_, m) => {
      const came = frameOf(m.mediaTime - shift + 1e-4);
      if (at(v, second) && came !== frameOf(second)) onThere(false, came);
    });
    v.addEventListener("seeked", done);
    v.currentTime = to(second);
    return () => {
      off();
      v.cancelVideoFrameCallback(watched);
      v.removeEventListener("seeked", done);
    };
  }, [second, ahead, playing, size, shift]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: while it plays no turn is taken
  useEffect(() => {
    const v = video.current;
    if (!v) return;
    if (!playing) {
      v.pause();
      return;
    }
    cover.current?.classList.add("hidden");
    v.playbackRate = speed;
    void v.play().catch(onEnd);
    let on = true;
    const look = () => {
      if (!on) return;
      onTime(v.currentTime - (shift ?? 0));
      v.requestVideoFrameCallback(look);
    };
    v.requestVideoFrameCallback(look);
    return () => {
      on = false;
    };
  }, [playing, speed, shift, onTime, onEnd]);
  return { videos, front, video, cover };
}
