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
  care: "What to do",
  flag: "Clearance",
  ask: "Ask now",
  unreviewed: "Open",
  flare: "Look at the week",
  stopped: "Look at the block",
  tender: "Look at the ramp",
  "no-running": "Look at the runs",
  gate: "See what opened",
  decide: "Review",
  review: "Review",
  change: "Decide",
  spike: "Talk kilometres",
  silent: "Log or write",
  retest: "Test again",
  phase: "Check the plan",
  paused: "See what is paused",
  relook: "Look again",
  again: "Look at the block",
  "block-ends": "Plan what follows",
  "block-over": "Plan what follows",
  clearance: "Clearance",
  "finish-screening": "Go on screening",
  plan: "Plan the block",
  screen: "Screen",
};

/** What the button of a row says. */
export const action = (i: Item) => actions[i.next.kind] ?? "Open";
