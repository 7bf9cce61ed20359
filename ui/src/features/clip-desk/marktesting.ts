import type { Schema } from "../../api/client";
import type { Clip } from "./upload";

export const templates: Schema["ClipTemplate"][] = [
  {
    id: "seated",
    name: "Seated, knee over toes",
    view: "side",
    hint: "The heel down.",
    places: [
      { place: "ankle", name: "ankle bone" },
      { place: "knee", name: "knee" },
    ],
  },
  {
    id: "navicular",
    name: "Navicular drop",
    view: "side",
    hint: "Sitting, then standing.",
    apart: true,
    places: [
      { place: "navicular-sit", name: "navicular, sitting" },
      { place: "navicular-stand", name: "navicular, standing" },
    ],
  },
  {
    id: "behind",
    name: "From behind",
    view: "behind",
    hint: "Both sides.",
    places: [{ place: "pelvis-left", name: "pelvis, left" }],
  },
];

export const clip = (part: Partial<Clip> = {}): Clip => ({
  id: "c",
  runnerId: "r",
  runnerName: "Dario",
  screeningId: "s",
  on: "2026-11-20",
  name: "knee.png",
  size: 1,
  received: 1,
  part: 4,
  ready: true,
  kind: "photo",
  thumb: true,
  markers: [],
  times: [],
  rev: 3,
  marks: { view: "side", picture: {}, moments: [], events: [] },
  runner: {},
  ...part,
});
