import { expect, test } from "vitest";
import type { Schema } from "../../api/client";
import { merged } from "./merge";

type Marks = Schema["ClipMarks"];

const marks = (part: Partial<Marks> = {}): Marks => ({
  view: "side",
  picture: {},
  moments: [],
  events: [],
  ...part,
});
const seated = (points: Marks["moments"][number]["points"]) => ({
  frame: 0,
  template: "seated",
  side: "left" as const,
  points,
});
const contact = (frame: number) => ({ frame, foot: "left" as const, kind: "contact" as const });

test("marks of both stand", () => {
  const base = marks({ events: [contact(1)], moments: [seated({ ankle: { x: 1, y: 1 } })] });
  const mine = marks({ events: [contact(1), contact(9)], moments: [seated({ ankle: { x: 5, y: 5 } })] });
  const theirs = marks({
    events: [contact(1), contact(4)],
    moments: [seated({ ankle: { x: 1, y: 1 }, knee: { x: 2, y: 2 } })],
    slow: 8,
  });
  const m = merged(base, mine, theirs);
  expect(m.events.map((e) => e.frame).sort()).toEqual([1, 4, 9]);
  expect(m.moments).toEqual([seated({ ankle: { x: 5, y: 5 }, knee: { x: 2, y: 2 } })]);
  expect(m.slow).toBe(8);
});

test("what one took away stays away, unless the other moved it", () => {
  const base = marks({ events: [contact(1), contact(4)], moments: [seated({ ankle: { x: 1, y: 1 } })] });
  const gone = merged(base, marks({ events: [contact(4)] }), base);
  expect(gone.events).toEqual([contact(4)]);
  expect(gone.moments).toEqual([]);
  const moved = marks({ events: [contact(1), contact(4)], moments: [seated({ ankle: { x: 7, y: 1 } })] });
  expect(merged(base, marks({ events: [contact(4)] }), moved).moments).toEqual(moved.moments);
});

test("the same on both sides is itself, in whichever order", () => {
  const base = marks();
  const both = marks({ events: [contact(3)], picture: { runsLeft: true }, rate: 120 });
  expect(merged(base, both, both)).toEqual({ ...both, fixes: undefined, accepted: undefined });
  const a = marks({ picture: { runsLeft: true } });
  const b = marks({ picture: { scaleCm: 100 } });
  expect(merged(base, a, b).picture).toEqual({ runsLeft: true, scaleCm: 100 });
  expect(merged(base, a, b).picture).toEqual(merged(base, b, a).picture);
});
