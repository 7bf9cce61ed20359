import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, need, type Schema } from "../api/client";
import { useLatest, useScreening } from "../api/hooks";
import { Choice } from "../parts/field";
import { Title } from "../parts/marks";
import { SaveState } from "../parts/states";
import { mended } from "./markers";
import type { Marks } from "./marks";
import { type Box, CantPropose, keep, type Progress, propose } from "./propose";
import { isIn, Row, type Shot, Times, useSend } from "./readings";
import type { Mark, Point } from "./stage";
import type { Clip } from "./upload";

export type Read = Schema["ClipProposalRead"];
type Foot = "left" | "right";
type Place = Schema["ClipFix"]["place"];

const places: Place[] = ["shoulder", "hip", "knee", "ankle", "heel", "toe"];
/** The lanes of a proposal, in its order. */
const lanes = (["left", "right"] as const).flatMap((foot) => places.map((place) => ({ foot, place })));
/** How many frames before and after the one on show are asked for at once. */
const around = 16;

/** What was proposed for a clip, with the marks as they are now. */
export function useProposal(clip: Clip, marks: Marks, frame: number) {
  const on = clip.proposedAt;
  const from = Math.max(0, Math.floor(frame / around) * around - 1);
  const to = from + around + 2;
  const question = on ? JSON.stringify({ marks, from, to, on }) : null;
  const { answer, error } = useLatest(question, (q) => {
    const x = JSON.parse(q) as { marks: Marks; from: number; to: number };
    return need(
      api.POST("/api/clips/{id}/proposal", {
        params: { path: { id: clip.id }, query: { from: x.from, to: x.to } },
        body: x.marks,
      }),
    );
  });
  return { read: on ? answer : undefined, error };
}

/** Whether a frame was looked at. */
export const lookedAt = (m: Marks, frame: number) =>
  (m.accepted ?? []).some((s) => s.from <= frame && frame <= s.to);

const fixedAt = (m: Marks, frame: number, foot: Foot, place: Place) =>
  (m.fixes ?? []).find((f) => f.frame === frame && f.foot === foot && f.place === place);

/** A frame's proposed points as marks: hollow until they are put right or looked at. */
export function proposedMarks(read: Read | undefined, m: Marks, frame: number): Mark[] {
  const p = read?.points[frame];
  if (!p || p.length === 0) return [];
  const seen = lookedAt(m, frame);
  return lanes.map(({ foot, place }, k) => ({
    id: `pose/${foot}/${place}`,
    name: `${foot} ${place}`,
    at: fixedAt(m, frame, foot, place)?.at ?? { x: p[3 * k] ?? 0, y: p[3 * k + 1] ?? 0 },
    hollow: !seen && !fixedAt(m, frame, foot, place),
    side: foot,
  }));
}

/** The lines between a frame's proposed points. */
export function proposedLines(list: readonly Mark[]): { from: Point; to: Point; side: Foot }[] {
  const at = (foot: Foot, place: Place) => list.find((x) => x.id === `pose/${foot}/${place}`)?.at;
  const out: { from: Point; to: Point; side: Foot }[] = [];
  for (const foot of ["left", "right"] as const)
    for (const [a, b] of [
      ["shoulder", "hip"],
      ["hip", "knee"],
      ["knee", "ankle"],
      ["ankle", "heel"],
      ["heel", "toe"],
      ["toe", "ankle"],
    ] as const) {
      const from = at(foot, a);
      const to = at(foot, b);
      if (from && to) out.push({ from, to, side: foot });
    }
  return out;
}

/** Marks with a proposed point put elsewhere. */
export function fixed(m: Marks, frame: number, foot: Foot, place: Place, at: Point): Marks {
  const rest = (m.fixes ?? []).filter((f) => f.frame !== frame || f.foot !== foot || f.place !== place);
  return { ...m, fixes: [...rest, { frame, foot, place, at }] };
}

/** Marks without a correction. */
export const unfixed = (m: Marks, frame: number, foot: Foot, place: Place): Marks => ({
  ...m,
  fixes: (m.fixes ?? []).filter((f) => f.frame !== frame || f.foot !== foot || f.place !== place),
});

/** Marks in which a stretch was looked at: its events are the coach's own from then on. */
export function accept(m: Marks, read: Read, from: number, to: number): Marks {
  const mine = m.events.filter((e) => e.frame < from || e.frame > to);
  const taken = read.events
    .filter((e) => e.frame >= from && e.frame <= to)
    .map((e) => ({ frame: e.frame, foot: e.foot, kind: e.kind }));
  return {
    ...m,
    accepted: [...(m.accepted ?? []), { from, to }],
    events: [...mine, ...taken].sort((a, b) => a.frame - b.frame),
  };
}

/** The step a frame lies in: from its contact to its toe-off, with a frame on either side. */
export function stepAt(read: Read, frame: number): { foot: Foot; from: number; to: number } | undefined {
  for (const foot of ["left", "right"] as const) {
    const list = read.events.filter((e) => e.foot === foot);
    for (const [i, e] of list.entries()) {
      const next = list[i + 1];
      if (e.kind === "contact" && next?.kind === "toe-off" && e.frame - 1 <= frame && frame <= next.frame + 1)
        return { foot, from: Math.max(0, e.frame - 1), to: next.frame + 1 };
    }
  }
  return undefined;
}

/** Asks for proposals, with progress and a way to stop. */
export function Propose({
  clip,
  frame,
  count,
  box,
  boxing,
  setBoxing,
  clearBox,
}: {
  clip: Clip;
  frame: number;
  count: number;
  box: Box | null;
  boxing: boolean;
  setBoxing: (on: boolean) => void;
  clearBox: () => void;
}) {
  const qc = useQueryClient();
  const photo = clip.kind === "photo";
  const [range, setRange] = useState<"all" | "here" | "one">("all");
  const [going, setGoing] = useState<Progress | null>(null);
  const [words, setWords] = useState("");
  const stop = useRef<AbortController | null>(null);
  useEffect(() => () => stop.current?.abort(), []);
  const go = async () => {
    const c = new AbortController();
    stop.current = c;
    setWords("");
    setGoing({ done: 0, of: 1, found: 0, perFrame: 0 });
    const from = photo || range === "all" ? 0 : frame;
    const to = photo
      ? 0
      : range === "one"
        ? frame
        : Math.min(count - 1, from + (range === "all" ? 3599 : 2 * Math.round(1 / frameSeconds(clip)) - 1));
    try {
      const p = await propose(clip, { from, to }, box, setGoing, c.signal);
      await keep(clip.id, p);
      await qc.invalidateQueries({ queryKey: ["clip", clip.id] });
    } catch (e) {
      if (c.signal.aborted) setWords("Stopped; nothing was changed.");
      else setWords(e instanceof CantPropose ? e.message : `Not proposed: ${(e as Error).message}`);
    } finally {
      setGoing(null);
    }
  };
  return (
    <section aria-label="Propose points" className="mt-4">
      {going ? (
        <div className="flex flex-wrap items-center gap-4">
          <progress
            className="w-56"
            aria-label="Points proposed"
            value={going.done}
            max={Math.max(1, going.of)}
          />
          {/* before the words, which change their length with every frame */}
          <button type="button" className="btn min-h-8" onClick={() => stop.current?.abort()}>
            Stop
          </button>
          <span role="status">
            {going.done === 0
              ? "loading the landmark library, 10 MB once"
              : `frame ${going.done} of ${going.of}, somebody in ${going.found}; ${Math.round(going.perFrame)} ms a frame`}
          </span>
        </div>
      ) : (
        <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
          <button type="button" className="btn btn-main" onClick={() => void go()}>
            {clip.proposedAt ? "Propose again" : "Propose points"}
          </button>
          {!photo && (
            <Choice
              label="Frames to propose for"
              hideLabel
              compact
              options={[
                { value: "all", label: "the clip" },
                { value: "here", label: "2 s from here" },
                { value: "one", label: "this frame" },
              ]}
              value={range}
              onChange={setRange}
            />
          )}
          <button
            type="button"
            aria-pressed={boxing}
            className={`min-h-8 rounded-[3px] border-[1.5px] px-2 text-[14px] font-semibold ${boxing ? "border-ink bg-ink text-chalk" : "border-edge bg-paper"}`}
            onClick={() => setBoxing(!boxing)}
          >
            box round the runner{box ? " ✓" : ""}
          </button>
          {box && (
            <button type="button" className="btn-quiet" onClick={clearBox}>
              no box
            </button>
          )}
          <p className="w-full text-[14px] text-ink-2">
            {boxing
              ? "Click two corners of a box round the runner, head to shoes; it follows from there."
              : "A library on this device looks for the body; nothing leaves the machine. You look, put right, accept. Where the runner fills less than half of the picture's height, draw a box first."}
          </p>
        </div>
      )}
      {words && (
        <p role="alert" className="mt-2 font-semibold">
          {words}
        </p>
      )}
    </section>
  );
}

const frameSeconds = (c: Clip) => {
  const a = c.times[0];
  const b = c.times.at(-1);
  return a === undefined || b === undefined || c.times.length < 2 ? 1 / 30 : (b - a) / (c.times.length - 1);
};

/** What to look at, what to put right, what is right. */
export function LookThrough({
  read,
  m,
  frame,
  go,
  set,
  ask,
  setAsk,
  take,
}: {
  read: Read;
  m: Marks;
  frame: number;
  go: (f: number) => void;
  set: (m: Marks) => void;
  ask: boolean;
  setAsk: (on: boolean) => void;
  take: (() => void) | null;
}) {
  const step = stepAt(read, frame);
  const next = read.asks.find((a) => !a.done);
  const done = read.asks.filter((a) => a.done).length;
  return (
    <section aria-label="Proposed points" className="mt-4">
      <Title aside={`somebody in ${read.found} of ${read.frames} frames; ${mended(read)}`}>
        Proposed points
      </Title>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        {read.events.length > 0 && (
          <>
            <button
              type="button"
              className="btn min-h-8"
              disabled={!step || lookedAt(m, frame)}
              onClick={() => step && set(accept(m, read, step.from, step.to))}
            >
              This step is right
            </button>
            <button
              type="button"
              className="btn min-h-8"
              disabled={lookedAt(m, read.from) && lookedAt(m, read.from + read.frames - 1)}
              onClick={() => set(accept(m, read, read.from, read.from + read.frames - 1))}
            >
              All is right
            </button>
          </>
        )}
        {take && (
          <button type="button" className="btn-quiet" onClick={take}>
            take this frame's points into the moment
          </button>
        )}
      </div>
      {read.look.length > 0 && (
        <p className="mt-2 flex flex-wrap items-baseline gap-x-2 gap-y-1 text-[14px]">
          <span>Look first, least sure:</span>
          {read.look.map((f) => (
            <button
              key={f}
              type="button"
              aria-current={f === frame}
              className={`btn-quiet ${f === frame ? "font-bold" : ""}`}
              onClick={() => go(f)}
            >
              frame {f + 1}
            </button>
          ))}
        </p>
      )}
      {read.asks.length > 0 && (
        <div className="mt-2 flex flex-wrap items-center gap-x-4 gap-y-1 text-[14px]">
          <span>
            Foot strike: heel and toe in {read.asks.length} frames, <b>{done}</b> done.
          </span>
          <button
            type="button"
            className="btn min-h-8"
            aria-pressed={ask}
            disabled={!next && !ask}
            onClick={() => {
              setAsk(!ask);
              if (!ask && next) go(next.frame);
            }}
          >
            {ask ? "Leave it" : "Place heel and toe"}
          </button>
        </div>
      )}
    </section>
  );
}

/** What the proposed and corrected points give over all steps, and one press for all of it. */
export function ProposedMeasures({ read, clip, shot }: { read: Read; clip: Clip; shot: Shot }) {
  const s = useScreening(clip.screeningId);
  const [sure, setSure] = useState(false);
  const send = useSend(clip, shot);
  const all = [...read.readings, ...read.times].filter(
    (j) => j.test && j.class !== "uncertain" && !isIn(s.data, j),
  );
  return (
    <section aria-label="Measures over all steps" className="mt-5">
      <Title aside="median of all steps">All steps</Title>
      {read.says.map((w) => (
        <p key={w} className="mt-1 text-[14px]">
          {w}
        </p>
      ))}
      {read.readings.map((j) => (
        <Row key={`${j.measure}${j.side}`} j={j} clip={clip} shot={shot} />
      ))}
      {read.gait && (
        <Times gait={read.gait} times={read.times} spring={read.spring} clip={clip} shot={shot} />
      )}
      {all.length > 0 && !s.data?.finished && (
        <div className="mt-3">
          {sure ? (
            <>
              <p>
                {all.length} readings with this picture: {[...new Set(all.map((j) => j.name))].join(", ")}.
              </p>
              <p className="mt-2 flex gap-3">
                <button
                  type="button"
                  className="btn btn-main"
                  disabled={send.isPending}
                  onClick={() => send.mutate(all, { onSettled: () => setSure(false) })}
                >
                  Put them in
                </button>
                <button type="button" className="btn" onClick={() => setSure(false)}>
                  Not now
                </button>
              </p>
            </>
          ) : (
            <button type="button" className="btn" onClick={() => setSure(true)}>
              All into the screening…
            </button>
          )}
          <SaveState error={send.error} saving={send.isPending} />
        </div>
      )}
      {!!send.data && (
        <p className="mt-1 text-[14px]">{send.data} had no free trial in the screening and were left out.</p>
      )}
    </section>
  );
}
