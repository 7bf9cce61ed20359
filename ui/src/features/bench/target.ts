import type { Schema } from "../../api/client";

type Item = Schema["BenchItem"];

/** Where the next step of a runner is taken. */
export function target(i: Item): string {
  switch (i.next.kind) {
    case "finish-screening":
      return `/screenings/${i.next.screening}`;
    case "decide":
    case "review":
    case "flare":
      return `/review/${i.id}`;
    case "ask":
      return `/runners/${i.id}/log#day`;
    case "unreviewed":
      return `/runners/${i.id}`;
    case "care":
    case "retest":
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
      return i.blockWeek ? `/runners/${i.id}/block` : `/runners/${i.id}`;
    case "spike":
    case "no-running":
      return `/runners/${i.id}/runs`;
    case "tender":
    case "relook":
      return `/runners/${i.id}/ramp`;
    case "silent":
      return `/runners/${i.id}/log`;
    case "plan":
    case "block-ends":
    case "block-over":
      return `/runners/${i.id}/plan`;
    default:
      return `/runners/${i.id}`;
  }
}
