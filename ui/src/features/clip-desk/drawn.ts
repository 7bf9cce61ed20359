import type { Stroke } from "./marked";
import type { Box } from "./propose";

/** The four edges of a box. */
export const edges = (b: Box): Stroke[] => {
  const at = (x: number, y: number) => ({ x: b.x + x * b.size, y: b.y + y * b.size });
  return [
    { from: at(0, 0), to: at(1, 0) },
    { from: at(1, 0), to: at(1, 1) },
    { from: at(1, 1), to: at(0, 1) },
    { from: at(0, 1), to: at(0, 0) },
  ];
};

/** Which marked places are joined by a drawn line. */
export const bones: [string, string][] = [
  ["ankle", "knee"],
  ["knee", "hip"],
  ["hip", "shoulder"],
  ["heel", "toe"],
  ["heel-stand", "toe-stand"],
  ["ball", "toe-tip"],
  ["floor-from", "floor-to"],
  ["pelvis-left", "pelvis-right"],
  ["achilles-low", "achilles-up"],
  ["heel-low", "heel-up"],
  ["foot", "midline"],
  ["highest", "lowest"],
];
