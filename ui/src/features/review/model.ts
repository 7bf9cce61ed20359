import type { Schema } from "../../api/client";
import { plusDays } from "../../parts/dates";
import { kept } from "../../parts/measures";

export type Block = Schema["Block"];
export type Prescription = Block["prescriptions"][number];
export type Side = "left" | "right" | "both";

/** What is typed of one ladder and side. */
export type Line = {
  pain?: number;
  done?: number;
  clean?: number;
  reserve?: number;
  noTime?: boolean;
  skipped?: boolean;
  cramp?: string;
  sore?: number;
  reacted?: boolean;
  sure?: number;
  mistakes?: string[];
  sets?: string;
  reps?: string;
  kg?: string;
};
export type Typed = {
  lines: Record<string, Line>;
  morning?: number;
  litmus?: "better" | "same" | "worse";
  /** The routine it was; empty for the plan's own session. */
  routine?: string;
  before?: Partial<Record<"left" | "right", string>>;
  after?: Partial<Record<"left" | "right", string>>;
  felt?: "foot" | "calf" | "shin" | "thigh" | "seat";
  note: string;
};
/** What is typed stays with its day, so that a coach can go through a week. */
export type Draft = { on: string; days: Record<string, Typed> };
export type Row = { p: Prescription; side: Side; key: string };

const nothing: Typed = { lines: {}, note: "" };

export const typedOn = (d: Draft): Typed => ({ ...nothing, ...d.days[d.on] });

/** The other days with something typed, the oldest first. */
export const unsaved = (d: Draft) =>
  Object.keys(d.days)
    .filter((x) => x !== d.on)
    .sort();

export type Act =
  | { do: "day"; to: string; from: string; until: string }
  | { do: "type"; part: Partial<Typed> }
  | { do: "row"; key: string; part: Line }
  | { do: "rows"; rows: Row[]; part: (p: Prescription) => Line }
  | { do: "saved"; on: string };

export function reduce(d: Draft, a: Act): Draft {
  const type = (part: Partial<Typed>): Draft => ({
    ...d,
    days: { ...d.days, [d.on]: { ...typedOn(d), ...part } },
  });
  const { lines } = typedOn(d);
  switch (a.do) {
    case "day":
      return a.to >= a.from && a.to <= a.until ? { ...d, on: a.to } : d;
    case "type":
      return type(a.part);
    case "row":
      return type({ lines: { ...lines, [a.key]: { ...lines[a.key], ...a.part } } });
    case "rows":
      return type({
        lines: {
          ...lines,
          ...Object.fromEntries(a.rows.map(({ p, key }) => [key, { ...lines[key], ...a.part(p) }])),
        },
      });
    case "saved": {
      const { [a.on]: _, ...days } = d.days;
      return { on: Object.keys(days).sort()[0] ?? d.on, days };
    }
  }
}

/** The day the log opens at: yesterday where it has no session, today otherwise. */
export function firstDate(b: Block) {
  const logged = new Set(b.weeks.flatMap((w) => w.days.filter((d) => d.logged).map((d) => d.on)));
  const yesterday = plusDays(b.today, -1);
  return yesterday >= b.startOn && !logged.has(yesterday) ? yesterday : b.today;
}

/** Every ladder and side that is logged here, or the parts of a routine in order; what
 * the ramp brings is logged there. */
export const rowsOf = (b: Block, routine?: string): Row[] =>
  (routine
    ? (b.routines.find((r) => r.id === routine)?.items ?? []).flatMap((id) =>
        b.prescriptions.filter((p) => p.id === id),
      )
    : b.prescriptions.filter((p) => !p.routine)
  )
    .filter((p) => !p.byRamp)
    .flatMap((p) =>
      (p.together ? (["both"] as const) : (["left", "right"] as const)).map((side) => ({
        p,
        side,
        key: `${p.id}/${side}`,
      })),
    );

/** The rows that were done on the day. */
export const usedOf = (rows: Row[], v: Typed) => rows.filter((r) => !v.lines[r.key]?.skipped);

/** What every row that is asked says, where they agree; null is not asked. */
export function agreed(
  rows: Row[],
  v: Typed,
  read: (l: Line, p: Prescription) => number | null | undefined,
): number | undefined {
  const all = rows.map((r) => read(v.lines[r.key] ?? {}, r.p)).filter((x) => x !== null);
  return all.every((x) => x === all[0]) ? all[0] : undefined;
}

const number = (s?: string) => (s?.trim() ? Number(s.replace(",", ".")) : undefined);

/** What was measured on both sides before and after, where both were typed. */
const comparedOf = (v: Typed): Schema["Compared"][] =>
  (["left", "right"] as const).flatMap((side) => {
    const before = number(v.before?.[side]);
    const after = number(v.after?.[side]);
    return before === undefined || after === undefined ? [] : [{ side, before, after }];
  });

/** The session as it is sent; what was left open stays open. */
export const sessionOf = (b: Block, on: string, v: Typed): Schema["SessionInput"] => ({
  on,
  routine: v.routine || undefined,
  compared: v.routine && comparedOf(v).length ? comparedOf(v) : undefined,
  felt: v.routine ? v.felt : undefined,
  note: v.note || undefined,
  litmus: v.litmus,
  nextMorning: on < b.today ? v.morning : undefined,
  items: usedOf(rowsOf(b, v.routine), v).map(({ p, side, key }) => {
    const l = v.lines[key] ?? {};
    return {
      prescriptionId: p.id,
      side,
      pain: p.purpose === "release" ? undefined : l.pain,
      soreSpot: p.purpose === "release" ? l.sore : undefined,
      reacted: l.reacted || undefined,
      crampAt: l.cramp ? Number(l.cramp) : undefined,
      done: l.done,
      compensated: l.clean,
      reserve: p.effort === "reserve" ? l.reserve : undefined,
      sureOfTwentyPercentMore: p.effort === "twenty" && l.sure !== undefined ? l.sure === 1 : undefined,
      noTime: l.noTime,
      mistakes: l.mistakes?.length ? l.mistakes : undefined,
      setsDone: number(l.sets),
      repsDone: number(l.reps),
      loadKg: l.kg?.trim() ? kept("kg", Number(l.kg.replace(",", "."))) : undefined,
    };
  }),
});
