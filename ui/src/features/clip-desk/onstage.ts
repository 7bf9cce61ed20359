import { bones } from "./drawn";
import type { Mark, Point, Stroke } from "./marked";
import type { Marks } from "./marks";
import { type Desk, lineList, lineNames, type Moment, type Template, withPoints } from "./model";

/** Every mark of a frame that is on show, the proposed ones first. */
export const shownMarks = (
  pose: readonly Mark[],
  now: Marks,
  half: Point | null | undefined,
  moment: Moment | undefined,
  t: Template | undefined,
): Mark[] => [
  ...pose,
  ...lineList.flatMap((name) =>
    (now.picture[name] ?? []).map((at, n) => ({
      id: `line/${name}/${n}`,
      name: lineNames[name],
      at,
      quiet: true,
    })),
  ),
  ...(half ? [{ id: "half", name: "", at: half }] : []),
  ...Object.entries(moment?.points ?? {}).map(([p, at]) => ({
    id: `at/${p}`,
    name: t?.places.find((s) => s.place === p)?.name ?? p,
    at,
  })),
];

/** The lines of the picture and the bones between the points that are marked. */
export function drawnLines(now: Marks, moment: Moment | undefined): Stroke[] {
  const out: Stroke[] = [];
  for (const name of lineList) {
    const [a, b] = now.picture[name] ?? [];
    if (a && b) out.push({ from: a, to: b });
  }
  for (const [a, b] of bones) {
    const p = moment?.points[a];
    const q = moment?.points[b];
    if (p && q) out.push({ from: p, to: q });
  }
  return out;
}

/** The marks with the proposed points of a moment taken over where it has none of its own. */
export function taken(now: Marks, i: number, d: Desk, t: Template, pose: readonly Mark[]): Marks {
  const points = { ...now.moments[i]?.points };
  for (const s of t.places) {
    const at = pose.find((x) => x.id === `pose/${d.side}/${s.place}`)?.at;
    if (at && !points[s.place]) points[s.place] = at;
  }
  const next = withPoints(now, i, d, points);
  return {
    ...next,
    moments: next.moments.map((x) =>
      x.template === d.template && x.side === d.side && x.frame === d.frame
        ? { ...x, by: "proposed" as const }
        : x,
    ),
  };
}
