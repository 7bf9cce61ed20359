import { t } from "@lingui/core/macro";
import type { Schema } from "../../api/client";
import type { Kept, Plan } from "./keep";

export type Day = Plan["days"][number];
export type Sitting = Day["sessions"][number];
export type Item = Sitting["items"][number];
export type ItemSide = Item["sides"][number];
export type Step = ItemSide["steps"][number];
type Answers = NonNullable<Schema["SafetyAnswers"]>;

/** The phone's own date, as YYYY-MM-DD. */
export const dateOf = (it: Date) =>
  `${it.getFullYear()}-${String(it.getMonth() + 1).padStart(2, "0")}-${String(it.getDate()).padStart(2, "0")}`;

export const addDays = (iso: string, n: number) => {
  const it = new Date(`${iso}T12:00:00Z`);
  it.setUTCDate(it.getUTCDate() + n);
  return it.toISOString().slice(0, 10);
};

/** Whole days since the plan was made; a clock that went back counts as none. */
export const silence = (plan: Plan, now: number) =>
  Math.max(0, Math.floor((now - new Date(plan.at).getTime()) / 86_400_000));

/** What this phone knows and the plan does not yet. */
export type Local = {
  mornings: { on: string; key: string; pain: number }[];
  yes: string[];
  pains: Record<string, number>;
  worst: number;
  stopped: boolean;
};

/** Reads what was told here since the plan was made; what was refused counts too. */
export function localOf(plan: Plan, kept: readonly Kept[]): Local {
  const out: Local = { mornings: [], yes: [], pains: {}, worst: 0, stopped: false };
  const known = new Set(plan.reports.filter((r) => r.state === "taken").map((r) => r.id));
  const hear = (a: Answers | undefined) => {
    for (const id of Object.keys(a?.yes ?? {})) if (!out.yes.includes(id)) out.yes.push(id);
  };
  for (const k of kept) {
    if (known.has(k.id)) continue; // the plan stands on it
    const { morning, session, on } = k.report;
    hear(morning?.answers);
    hear(session?.answers);
    for (const r of [...(morning?.readings ?? []), ...(morning?.new ?? [])]) {
      const p = Math.max(r.firstStep ?? 0, r.rest !== undefined && r.rest >= plan.rules.restSevere ? 10 : 0);
      if (r.firstStep !== undefined || p > 0) {
        out.mornings.push({ on, key: `${r.zone ?? ""}/${r.side ?? ""}`, pain: p });
        out.worst = Math.max(out.worst, p);
      }
    }
    for (const i of session?.items ?? []) {
      const p = i.pain ?? 0;
      for (const side of i.side === "both" ? ["left", "right", "both"] : [i.side, "both"]) {
        const at = `${i.prescriptionId}/${side}`;
        out.pains[at] = Math.max(out.pains[at] ?? 0, p);
      }
      if (p >= plan.rules.endsSession) out.stopped = true;
    }
  }
  if (out.worst >= plan.rules.endsSession) out.stopped = true;
  return out;
}

export const emergency = (plan: Plan, local: Local) => local.yes.some((id) => plan.emergency.includes(id));

/** What a side does now: a step of its list, or why nothing. */
export type Doing = { step: Step; lower: number } | { closed: string };

/**
 * Looks up what a side does with what is known here. It only ever lowers or closes:
 * each reading and each answer is asked by itself and the most careful one holds.
 */
export function doing(plan: Plan, local: Local, item: Item, side: ItemSide, now: number): Doing {
  if (plan.care || emergency(plan, local)) return { closed: t`Get care first.` };
  const quiet = plan.quiet.includes(item.prescriptionId);
  if (silence(plan, now) > plan.rules.quietDays && !quiet)
    return {
      closed: t`Your coach has not heard of this phone for over a week. Release, range and steering go on.`,
    };
  if (local.stopped && !quiet) return { closed: t`Pain of 8: somebody looks before anything is loaded.` };
  if (side.closedBy.some((id) => local.yes.includes(id)))
    return { closed: t`One of your answers closes it until somebody has looked.` };
  let lower = 0;
  for (const m of local.mornings) {
    const n = side.morning?.[m.key]?.[m.pain] ?? side.morning?.["/"]?.[m.pain] ?? 0;
    if (n < 0) return { closed: t`First steps were ${m.pain}: it rests until your coach's plan says more.` };
    lower = Math.max(lower, n);
  }
  const pain = local.pains[`${item.prescriptionId}/${side.side}`] ?? 0;
  if (pain >= item.endsAt) lower = Math.max(lower, 1);
  const step = side.steps[lower];
  if (!step) return { closed: t`What is lower is not open today.` };
  return { step, lower };
}

/** The sittings of a day as they stand here; one of which nothing is left falls away. */
export type Now = { sitting: Sitting; todo: { item: Item; side: ItemSide; step: Step; lower: number }[] };

export function sittingsOf(plan: Plan, local: Local, on: string, now: number): Now[] {
  const day = plan.days.find((d) => d.on === on);
  if (!day) return [];
  return day.sessions
    .map((sitting) => ({
      sitting,
      todo: sitting.items.flatMap((item) =>
        item.sides.flatMap((side) => {
          const d = doing(plan, local, item, side, now);
          return "step" in d ? [{ item, side, ...d }] : [];
        }),
      ),
    }))
    .filter((s) => s.todo.length > 0);
}

/** Why something of a day is not done, each reason once; a side is named where one goes on. */
export function whyNot(plan: Plan, local: Local, on: string, now: number): { name: string; why: string }[] {
  const out = new Map<string, Set<string>>();
  for (const s of plan.days.find((d) => d.on === on)?.sessions ?? [])
    for (const item of s.items) {
      const shut = item.sides.flatMap((side) => {
        const d = doing(plan, local, item, side, now);
        return "closed" in d ? [{ side: side.side, why: d.closed }] : [];
      });
      const all = shut.length === item.sides.length && new Set(shut.map((x) => x.why)).size === 1;
      for (const x of shut) {
        const names = out.get(x.why) ?? new Set();
        out.set(x.why, names.add(all ? item.name : `${item.name} (${x.side})`));
      }
    }
  return [...out].map(([why, names]) => ({ name: [...names].join("; "), why }));
}

/** Whether running is closed by what was answered here. */
export const noRunning = (plan: Plan, local: Local) =>
  local.stopped || local.yes.some((id) => plan.noRunIf.includes(id)) || emergency(plan, local);

/** Whether a day had a session that nobody told of. */
export const openOn = (plan: Plan, kept: readonly Kept[], on: string) =>
  plan.days
    .find((d) => d.on === on)
    ?.sessions.filter(
      (s) => s.items.some((i) => i.sides.length > 0) && !sittingTold(plan, kept, on, idOf(s)),
    ) ?? [];

/** Whether the morning of a date was told, here or before. */
export const morningTold = (plan: Plan, kept: readonly Kept[], on: string) =>
  plan.places.some((p) => p.known.some((k) => k.on === on)) ||
  kept.some(
    (k) => k.report.kind === "morning" && k.report.on === on && (k.report.morning?.readings?.length ?? 0) > 0,
  );

/** What a sitting is known by on its day: its kind, a routine by its own name. */
export const idOf = (s: Sitting) => (s.routine ? `routine/${s.routine.id}` : s.kind);

/** Whether a sitting was told, here or before. */
export const sittingTold = (plan: Plan, kept: readonly Kept[], on: string, id: string) =>
  kept.some(
    ({ report: r }) =>
      r.kind === "session" &&
      r.on === on &&
      (r.session?.routine ? `routine/${r.session.routine}` : r.session?.kind) === id,
  ) ||
  (id === "main" && (plan.days.find((d) => d.on === on)?.logged ?? false));
