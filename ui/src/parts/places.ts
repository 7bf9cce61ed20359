import type { Schema } from "../api/client";

export type Bar = Schema["Bar"];

/** The places of a runner's pages, in their order everywhere. */
export const places = [
  { id: "now", name: "Now" },
  { id: "screenings", name: "Screenings" },
  { id: "plan", name: "Plan" },
  { id: "running", name: "Running" },
  { id: "ramps", name: "Ramps" },
  { id: "clips", name: "Clips" },
  { id: "journal", name: "Journal" },
  { id: "profile", name: "Profile" },
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
      return b.openScreening ? `${b.screenings}, one open` : b.screenings ? String(b.screenings) : "";
    case "plan":
      if (!b.blockWeek || !b.blockWeeks) return "";
      return b.blockWeek > b.blockWeeks ? "over" : `week ${b.blockWeek} of ${b.blockWeeks}`;
    case "clips":
      return b.clips ? String(b.clips) : "";
    case "journal":
      return b.heard ? `${b.heard} new` : "";
    default:
      return "";
  }
}
