import { t } from "@lingui/core/macro";
import type { Schema } from "../api/client";

export type Bar = Schema["Bar"];

/** The places of a runner's pages, in their order everywhere. */
export const places = [
  { id: "now", name: t`Now` },
  { id: "screenings", name: t`Screenings` },
  { id: "plan", name: t`Plan` },
  { id: "running", name: t`Running` },
  { id: "ramps", name: t`Ramps` },
  { id: "clips", name: t`Clips` },
  { id: "journal", name: t`Journal` },
  { id: "profile", name: t`Profile` },
] as const;

export type Place = (typeof places)[number]["id"];

/** Where a place is. */
export function placeOf(id: string, place: Place, b?: Bar): string {
  switch (place) {
    case "now":
      return `/runners/${id}`;
    case "plan":
      return b && !b.blockWeek ? `/runners/${id}/plan` : `/runners/${id}/block`;
    case "running":
      return `/runners/${id}/runs`;
    case "ramps":
      return `/runners/${id}/ramp`;
    case "profile":
      return `/runners/${id}/edit`;
    default:
      return `/runners/${id}/${place}`;
  }
}

/** What a place's label says beside its name: how many, or where it stands. */
export function stateOf(place: Place, b?: Bar): string {
  if (!b) return "";
  switch (place) {
    case "screenings":
      return b.openScreening ? t`${b.screenings}, one open` : b.screenings ? String(b.screenings) : "";
    case "plan":
      if (!b.blockWeek || !b.blockWeeks) return "";
      return b.blockWeek > b.blockWeeks ? "over" : t`week ${b.blockWeek} of ${b.blockWeeks}`;
    case "clips":
      return b.clips ? String(b.clips) : "";
    case "journal":
      return b.heard ? t`${b.heard} new` : "";
    default:
      return "";
  }
}
