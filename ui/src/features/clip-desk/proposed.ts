import { api, need, type Schema } from "../../api/client";
import { useLatest } from "../../api/hooks";
import type { Mark, Point } from "./marked";
import type { Marks } from "./marks";
import type { Clip } from "./upload";

export type Read = Schema["ClipProposalRead"];

export type Foot = "left" | "right";

export type Place = Schema["ClipFix"]["place"];

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
