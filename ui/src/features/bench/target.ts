import { t } from "@lingui/core/macro";
import type { Schema } from "../../api/client";

export type Item = Schema["BenchItem"];

/** Where the next step of a runner is taken. */
export function target(i: Item): string {
  const runner = `/runners/${i.id}`;
  switch (i.next.kind) {
    case "finish-screening":
      return `/screenings/${i.next.screening}`;
    case "decide":
    case "review":
    case "flare":
      return `/review/${i.id}`;
    case "ask":
      return `${runner}/log#day`;
    case "retest":
      return `${runner}/screenings`;
    case "care":
    case "paused":
    case "change":
    case "phase":
    case "quiet":
    case "again":
    case "limit":
    case "stopped":
    case "flag":
    case "gate":
    case "clearance":
      return i.blockWeek ? `${runner}/block` : runner;
    case "spike":
    case "no-running":
      return `${runner}/runs`;
    case "tender":
    case "relook":
      return `${runner}/ramp`;
    case "silent":
      return `${runner}/log`;
    case "plan":
    case "block-ends":
    case "block-over":
      return `${runner}/plan`;
    default:
      return runner;
  }
}

const actions: Record<string, string> = {
  care: t`What to do`,
  flag: t`Clearance`,
  ask: t`Ask now`,
  unreviewed: t`Open`,
  flare: t`Look at the week`,
  stopped: t`Look at the block`,
  tender: t`Look at the ramp`,
  "no-running": t`Look at the runs`,
  gate: t`See what opened`,
  decide: t`Review`,
  review: t`Review`,
  change: t`Decide`,
  spike: t`Talk kilometres`,
  silent: t`Log or write`,
  retest: t`Test again`,
  phase: t`Check the plan`,
  paused: t`See what is paused`,
  relook: t`Look again`,
  again: t`Look at the block`,
  "block-ends": t`Plan what follows`,
  "block-over": t`Plan what follows`,
  clearance: t`Clearance`,
  "finish-screening": t`Go on screening`,
  plan: t`Plan the block`,
  screen: t`Screen`,
};

/** What the button of a row says. */
export const action = (i: Item) => actions[i.next.kind] ?? t`Open`;
