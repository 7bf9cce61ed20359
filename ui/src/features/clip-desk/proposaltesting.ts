import type { Schema } from "../../api/client";
import type { Marks } from "./marks";
import type { Read } from "./proposed";

export const marks = (part: Partial<Marks> = {}): Marks => ({
  view: "side",
  picture: {},
  moments: [],
  events: [],
  ...part,
});

export const event = (frame: number, foot: "left" | "right", kind: "contact" | "toe-off") => ({
  frame,
  foot,
  kind,
  at: frame / 60,
  margin: 0.02,
});

/** Twelve points in a row, as a proposal has them. */
export const row = (x: number) => Array.from({ length: 12 }, (_, k) => [x + k, 100 + k, 0.9]).flat();

export const read = (part: Partial<Read> = {}): Read => ({
  from: 0,
  body: "whole",
  found: 90,
  frames: 100,
  filled: 0,
  swapped: 0,
  quality: [],
  events: [
    event(10, "left", "contact"),
    event(25, "left", "toe-off"),
    event(31, "right", "contact"),
    event(46, "right", "toe-off"),
    event(52, "left", "contact"),
  ],
  readings: [],
  perStep: [],
  times: [],
  says: [],
  points: { 12: row(200) },
  look: [40, 12],
  asks: [
    { frame: 10, foot: "left", what: "contact", done: true },
    { frame: 15, foot: "left", what: "flat", done: false },
  ],
  ...part,
});

export const judged = (part: Partial<Schema["ClipJudged"]>): Schema["ClipJudged"] => ({
  measure: "overstride",
  name: "Shin at contact",
  unit: "°",
  value: 12.34,
  margin: 4,
  shortPx: 0,
  side: "left",
  test: "overstride",
  source: { kind: "house", ref: "", note: "" } as unknown as Schema["ClipJudged"]["source"],
  ...part,
});
