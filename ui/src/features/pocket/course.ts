import type { Schema } from "../../api/client";
import type { Tempo } from "../../parts/motion";
import type { Progress, Report, Result } from "./keep";
import type { Item, ItemSide, Now, Step } from "./rules";

/** One set of one side. */
export type Effort = {
  key: string;
  item: Item;
  side: ItemSide;
  step: Step;
  lower: number;
  set: number;
  of: number;
};

/** The sets of a sitting in their order: set by set, left before right. */
export function efforts(now: Now): Effort[] {
  const out: Effort[] = [];
  const items = [...new Set(now.todo.map((t) => t.item))];
  for (const item of items) {
    const sides = now.todo.filter((t) => t.item === item);
    const most = Math.max(...sides.map((t) => t.step.dose.sets || 1));
    for (let set = 1; set <= most; set++)
      for (const t of sides) {
        const of = t.step.dose.sets || 1;
        if (set <= of)
          out.push({
            key: `${item.prescriptionId}/${t.side.side}`,
            item,
            side: t.side,
            step: t.step,
            lower: t.lower,
            set,
            of,
          });
      }
  }
  return out;
}

/** Whether a session is set against a walk: where what it is set against is still in it, and not when that rests. */
export const walks = (now: Now) => !!now.sitting.litmus && now.todo.some((t) => t.item.walk);

export const resultOf = (p: Progress, e: Effort): Result =>
  p.results[e.key] ?? { sets: 0, of: e.of, notch: e.step.notch };

/** Whether a set falls away because its exercise was ended on that side. */
export const over = (p: Progress, e: Effort) =>
  !!(p.results[e.key]?.ended || p.results[e.key]?.couldNot || p.results[e.key]?.noTime);

/** The next set from a place on that is still done; the end where there is none. */
export function nextAt(list: readonly Effort[], p: Progress, from: number): number {
  let i = from;
  while (i < list.length && over(p, list[i] as Effort)) i++;
  return i;
}

export type Felt = "foot" | "calf" | "shin" | "thigh" | "seat";

/** What was measured on both sides before and after a routine, in centimetres. */
export const comparedOf = (p: Progress) =>
  (["left", "right"] as const).flatMap((side) => {
    const before = p.before?.[side];
    const after = p.after?.[side];
    return before === undefined || after === undefined ? [] : [{ side, before, after }];
  });

/** A session as it is told: what nothing was done of is left out. */
export function toldAs(
  id: string,
  block: string,
  p: Progress,
  list: readonly Effort[],
  at: Date,
  zone: string,
  litmus?: "better" | "same" | "worse",
  answers?: Schema["SafetyAnswers"],
  felt?: Felt,
): Report | null {
  const keys = [...new Set(list.map((e) => e.key))];
  const items = keys.flatMap((key) => {
    const e = list.find((x) => x.key === key);
    const r = p.results[key];
    if (!e || !r || (r.sets === 0 && r.pain === undefined && !r.couldNot && !r.noTime)) return [];
    const release = e.item.purpose === "release";
    return [
      {
        prescriptionId: e.item.prescriptionId,
        side: e.side.side,
        notch: r.notch,
        done: Math.min(1, r.sets / Math.max(1, r.of)),
        pain: release ? undefined : r.pain,
        soreSpot: release ? (r.sore ?? r.pain) : undefined,
        reserve: r.reserve,
        sureOfTwentyPercentMore: r.sure,
        noTime: r.noTime || undefined,
        crampAt: r.cramp,
        mistakes: r.mistakes?.length ? r.mistakes : undefined,
        compensated: r.mistakes === undefined ? undefined : r.mistakes.length > 0 ? 0.1 : 0,
      },
    ];
  });
  if (items.length === 0) return null;
  const routine = p.kind.startsWith("routine/") ? p.kind.slice("routine/".length) : undefined;
  const compared = comparedOf(p);
  return {
    id,
    kind: "session",
    on: p.on,
    at: at.toISOString(),
    zone,
    session: {
      block,
      kind: (routine ? "routine" : p.kind) as "main",
      items,
      litmus: litmus ?? "",
      answers,
      routine,
      compared: compared.length > 0 ? compared : undefined,
      felt,
    },
  } as Report;
}

/** What a set asks of the time: repetitions by their tempo, a hold, minutes, or nothing. */
export type Pace =
  | { is: "reps"; reps: number; up: number; hold: number; down: number; low: number }
  | { is: "hold"; seconds: number }
  | { is: "count"; words: string };

export function paceOf(s: Step): Pace {
  const d = s.dose;
  const [up = 0, hold = 0, down = 0, low = 0] = d.tempo ?? [];
  if (d.reps && d.holdSeconds)
    return { is: "reps", reps: d.reps, up: 1, hold: d.holdSeconds, down: 1, low: 0 };
  if (d.reps && up + hold + down + low > 0) return { is: "reps", reps: d.reps, up, hold, down, low };
  if (d.holdSeconds) return { is: "hold", seconds: d.holdSeconds };
  if (d.minutes) return { is: "hold", seconds: d.minutes * 60 };
  return { is: "count", words: s.words };
}

/** The tempo an exercise is shown at before it is done: its own, and for a hold in and out of it. */
export function shownAt(s: Step): Tempo {
  const p = paceOf(s);
  if (p.is === "reps") return { up: p.up, hold: p.hold, down: p.down, low: Math.max(p.low, 0.4) };
  return { up: 1.5, hold: p.is === "hold" ? Math.min(4, p.seconds) : 0.6, down: 1.5, low: 0.8 };
}

/** Whether the walk is walked again: not where a set hurt enough to end an exercise, nor on a stopped day. */
export const walksAgain = (p: Progress, list: readonly Effort[], stopped: boolean) =>
  !!p.walked && !stopped && !list.some((e) => (p.results[e.key]?.pain ?? 0) >= e.item.endsAt);

/** What is called out at a second of a hold, where its plan calls anything. */
export const callAt = (s: Step, second: number) => s.calls?.filter((c) => c.at <= second).at(-1);

/** Where a repetition stands after so many seconds of a set: which, and in which part. */
export function placeIn(p: Extract<Pace, { is: "reps" }>, seconds: number) {
  const parts = [
    ["up", p.up],
    ["hold", p.hold],
    ["down", p.down],
    ["rest", p.low],
  ] as const;
  const each = parts.reduce((n, [, s]) => n + s, 0);
  const rep = Math.min(p.reps, Math.floor(seconds / each) + 1);
  let t = seconds % each;
  for (const [name, s] of parts) {
    if (t < s) return { rep, part: name, share: s > 0 ? t / s : 0, done: seconds >= each * p.reps };
    t -= s;
  }
  return { rep, part: "rest" as const, share: 1, done: seconds >= each * p.reps };
}
