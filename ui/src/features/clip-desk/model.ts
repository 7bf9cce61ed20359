import { t } from "@lingui/core/macro";
import type { Schema } from "../../api/client";
import type { Point } from "./marked";
import type { Marks } from "./marks";
import type { Box } from "./propose";
import { fixed, type Read, unfixed } from "./proposed";

export type Moment = Schema["ClipMoment"];
export type Template = Schema["ClipTemplate"];
export type Side = "left" | "right";
export const lineNames = { floor: t`floor line`, plumb: t`plumb line`, scale: "scale" } as const;
export type LineName = keyof typeof lineNames;
export const lineList = Object.keys(lineNames) as LineName[];
type Ask = Read["asks"][number];

/** What the desk shows and has in hand; the marks themselves are kept apart, by steps. */
export type Desk = {
  frame: number;
  /** The way of the last step through the frames. */
  way: number;
  playing: boolean;
  speed: number;
  template: string;
  side: Side;
  /** The mark in hand: at/place, line/name/n, pose/foot/place. */
  chosen: string | null;
  /** A line being drawn, and the first of two points of it or of a box. */
  line: LineName | null;
  half: Point | null;
  box: Box | null;
  boxing: boolean;
  /** Heel and toe are asked for, frame by frame. */
  asking: boolean;
};

export type Act =
  | { do: "go"; to: number; count: number }
  | { do: "show"; frame: number }
  | { do: "play"; on: boolean }
  | { do: "speed"; to: number }
  | { do: "template"; to: string }
  | { do: "side"; to: Side }
  | { do: "choose"; id: string | null }
  | { do: "line"; name: LineName }
  | { do: "boxing"; on: boolean }
  | { do: "unbox" }
  | { do: "ask"; on: boolean }
  | { do: "leave" }
  | { do: "clicked"; desk: Desk };

export const opening = (template: string): Desk => ({
  frame: 0,
  way: 1,
  playing: false,
  speed: 0.25,
  template,
  side: "right",
  chosen: null,
  line: null,
  half: null,
  box: null,
  boxing: false,
  asking: false,
});

export function reduce(d: Desk, a: Act): Desk {
  switch (a.do) {
    case "go": {
      const frame = Math.min(a.count - 1, Math.max(0, a.to));
      return { ...d, playing: false, frame, way: frame === d.frame ? d.way : frame - d.frame };
    }
    case "show":
      return { ...d, frame: a.frame };
    case "play":
      return { ...d, playing: a.on };
    case "speed":
      return { ...d, speed: a.to };
    case "template":
      return { ...d, template: a.to, chosen: null };
    case "side":
      return { ...d, side: a.to };
    case "choose":
      return { ...d, chosen: a.id };
    case "line":
      return { ...d, line: d.line === a.name ? null : a.name, half: null };
    case "boxing":
      return { ...d, boxing: a.on, half: null, line: null };
    case "unbox":
      return { ...d, box: null };
    case "ask":
      return { ...d, asking: a.on, chosen: null };
    case "leave":
      return { ...d, chosen: null, line: null, half: null, boxing: false, asking: false };
    case "clicked":
      return a.desk;
  }
}

/** The moment that is being marked: of this template and side, at this frame unless it stands apart. */
export const momentAt = (m: Marks, d: Desk, time: Template | undefined) =>
  m.moments.findIndex(
    (x) => x.template === d.template && x.side === d.side && (x.frame === d.frame || !!time?.apart),
  );

/** The marks with a moment's points; without any the moment goes, and points put right are corrected ones. */
export function withPoints(m: Marks, at: number, d: Desk, points: Moment["points"]): Marks {
  const moments = [...m.moments];
  const was = moments[at];
  if (was) moments[at] = { ...was, points, by: was.by === "proposed" ? "corrected" : was.by };
  else moments.push({ frame: d.frame, template: d.template, side: d.side, points });
  const own = was ? at : moments.length - 1;
  return { ...m, moments: moments.filter((x, k) => k !== own || Object.keys(x.points).length > 0) };
}

/** The marks with a moment that is kept as a log: nothing is placed in it. */
export const logged = (m: Marks, d: Desk): Marks => ({
  ...m,
  moments: [...m.moments, { frame: d.frame, template: d.template, side: d.side, points: {} }],
});

/** From where a moment of a view is offered: what is seen from the front is what is seen from behind. */
export const viewOf = (view: Marks["view"]): Template["view"] => (view === "front" ? "behind" : view);

/** An event at a frame, or none where it was there. */
export function toggled(m: Marks, frame: number, foot: Side, kind: "contact" | "toe-off"): Marks {
  const same = (e: Schema["ClipEvent"]) => e.foot === foot && e.kind === kind && e.frame === frame;
  return {
    ...m,
    events: m.events.some(same)
      ? m.events.filter((e) => !same(e))
      : [...m.events, { frame, foot, kind }].sort((a, b) => a.frame - b.frame),
  };
}

/** A mark moved to a place of the picture. */
export function moved(m: Marks, d: Desk, at: number, id: string, to: Point): Marks {
  const [kind, name = "", n = ""] = id.split("/");
  if (kind === "pose") return fixed(m, d.frame, name as Side, n as "heel", to);
  if (kind === "at") return withPoints(m, at, d, { ...m.moments[at]?.points, [name]: to });
  const line = [...(m.picture[name as LineName] ?? [])];
  line[Number(n)] = to;
  return { ...m, picture: { ...m.picture, [name]: line } };
}

/** The marks without the one in hand. */
export function without(m: Marks, d: Desk, at: number, id: string): Marks {
  const [kind, name = "", n = ""] = id.split("/");
  const moment = m.moments[at];
  if (kind === "pose") return unfixed(m, d.frame, name as Side, n as "heel");
  if (kind === "at" && moment) {
    const { [name]: _, ...points } = moment.points;
    return withPoints(m, at, d, points);
  }
  if (kind !== "line") return m;
  const { [name as LineName]: _, ...rest } = m.picture;
  return { ...m, picture: rest };
}

/** The smallest box around a runner, in pixels. */
const leastBox = 40;

/** What a click on the picture does, with what is in hand. */
export function clicked(
  d: Desk,
  m: Marks,
  click: Point,
  on: { at: number; next: string | undefined; asked: Ask | undefined; asks: readonly Ask[]; count: number },
): { desk: Desk; marks?: Marks } {
  const p = { x: Math.round(click.x * 10) / 10, y: Math.round(click.y * 10) / 10 };
  if (d.boxing) {
    if (!d.half) return { desk: { ...d, half: p } };
    const size = Math.max(leastBox, Math.abs(p.x - d.half.x), Math.abs(p.y - d.half.y));
    const box = { x: (p.x + d.half.x - size) / 2, y: (p.y + d.half.y - size) / 2, size };
    return { desk: { ...d, box, half: null, boxing: false } };
  }
  if (on.asked) {
    const { foot } = on.asked;
    const has = (place: "heel" | "toe") =>
      (m.fixes ?? []).some((f) => f.frame === d.frame && f.foot === foot && f.place === place);
    const place = !has("heel") || has("toe") ? "heel" : "toe";
    const base = place === "heel" ? unfixed(m, d.frame, foot, "toe") : m;
    const marks = fixed(base, d.frame, foot, place, p);
    if (place === "heel") return { desk: d, marks };
    const later = on.asks.filter((a) => !a.done && a.frame !== d.frame);
    const to = later.find((a) => a.frame > d.frame) ?? later[0];
    return {
      desk: to ? reduce(d, { do: "go", to: to.frame, count: on.count }) : { ...d, asking: false },
      marks,
    };
  }
  if (d.line) {
    if (!d.half) return { desk: { ...d, half: p } };
    return {
      desk: { ...d, half: null, line: null },
      marks: { ...m, picture: { ...m.picture, [d.line]: [d.half, p] } },
    };
  }
  if (!on.next) return { desk: { ...d, chosen: null } };
  return {
    desk: { ...d, chosen: `at/${on.next}` },
    marks: withPoints(m, on.at, d, { ...m.moments[on.at]?.points, [on.next]: p }),
  };
}
