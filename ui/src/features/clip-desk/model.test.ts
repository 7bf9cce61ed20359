import { expect, test } from "vitest";
import type { Marks } from "./marks";
import { clicked, type Desk, moved, opening, reduce, toggled, without, withPoints } from "./model";

const blank: Marks = {
  view: "side",
  rate: 30,
  slow: 1,
  picture: {},
  moments: [],
  events: [],
} as unknown as Marks;
const at = (part: Partial<Desk> = {}): Desk => ({ ...opening("contact"), ...part });
const on = (part: object = {}) => ({
  at: -1,
  next: "ankle",
  asked: undefined,
  asks: [],
  count: 100,
  ...part,
});

test("the desk stays in the clip and remembers its way; going stops playing", () => {
  let d = reduce(at({ playing: true }), { do: "go", to: 10, count: 20 });
  expect(d).toMatchObject({ frame: 10, way: 10, playing: false });
  d = reduce(d, { do: "go", to: 99, count: 20 });
  expect(d).toMatchObject({ frame: 19, way: 9 });
  d = reduce(d, { do: "go", to: 20, count: 20 });
  expect(d.way).toBe(9);
  expect(reduce(d, { do: "go", to: -3, count: 20 })).toMatchObject({ frame: 0, way: -19 });
  expect(reduce(d, { do: "show", frame: 4 })).toMatchObject({ frame: 4, way: 9 });
});

test("what is in hand is let go of together", () => {
  const busy = at({ chosen: "at/knee", line: "floor", half: { x: 1, y: 1 }, boxing: true, asking: true });
  expect(reduce(busy, { do: "leave" })).toMatchObject({
    chosen: null,
    line: null,
    half: null,
    boxing: false,
    asking: false,
  });
  expect(reduce(at(), { do: "line", name: "scale" }).line).toBe("scale");
  expect(reduce(at({ line: "scale", half: { x: 1, y: 1 } }), { do: "line", name: "scale" })).toMatchObject({
    line: null,
    half: null,
  });
  expect(reduce(at({ line: "scale" }), { do: "boxing", on: true })).toMatchObject({
    boxing: true,
    line: null,
  });
  expect(reduce(at({ chosen: "x" }), { do: "template", to: "toe-off" })).toMatchObject({
    template: "toe-off",
    chosen: null,
  });
});

test("clicks put the next place, to a tenth of a pixel", () => {
  const { desk, marks } = clicked(at({ frame: 7 }), blank, { x: 10.04, y: 20.06 }, on());
  expect(desk.chosen).toBe("at/ankle");
  expect(marks?.moments).toEqual([
    { frame: 7, template: "contact", side: "right", points: { ankle: { x: 10, y: 20.1 } } },
  ]);
  expect(clicked(at({ chosen: "at/ankle" }), blank, { x: 1, y: 1 }, on({ next: undefined }))).toEqual({
    desk: at({ chosen: null }),
  });
});

test("a line takes two clicks, a box its longer side and no less than forty pixels", () => {
  const first = clicked(at({ line: "floor" }), blank, { x: 1, y: 2 }, on());
  expect(first.marks).toBeUndefined();
  const second = clicked(first.desk, blank, { x: 30, y: 2 }, on());
  expect(second.marks?.picture.floor).toEqual([
    { x: 1, y: 2 },
    { x: 30, y: 2 },
  ]);
  expect(second.desk).toMatchObject({ line: null, half: null });
  const box = (x: number, y: number) =>
    clicked(at({ boxing: true, half: { x: 100, y: 100 } }), blank, { x, y }, on()).desk.box;
  expect(box(200, 150)).toEqual({ x: 100, y: 75, size: 100 });
  expect(box(110, 110)).toEqual({ x: 85, y: 85, size: 40 });
});

test("heel, then toe, then on to the next frame that is asked for, or the first left", () => {
  const asks = [
    { frame: 3, foot: "left", what: "contact", done: false },
    { frame: 8, foot: "right", what: "contact", done: false },
  ] as never[];
  const d = at({ frame: 8, asking: true });
  const heel = clicked(d, blank, { x: 1, y: 1 }, on({ asked: asks[1], asks }));
  expect(heel.desk.frame).toBe(8);
  expect(heel.marks?.fixes).toMatchObject([{ frame: 8, foot: "right", place: "heel" }]);
  const toe = clicked(d, heel.marks as Marks, { x: 5, y: 1 }, on({ asked: asks[1], asks }));
  expect(toe.marks?.fixes).toHaveLength(2);
  expect(toe.desk.frame).toBe(3);
  const last = clicked(d, heel.marks as Marks, { x: 5, y: 1 }, on({ asked: asks[1], asks: [asks[1]] }));
  expect(last.desk.asking).toBe(false);
});

test("events come and go and stay in order; marks are moved and taken away", () => {
  let m = toggled(toggled(blank, 9, "left", "contact"), 4, "right", "toe-off");
  expect(m.events.map((e) => e.frame)).toEqual([4, 9]);
  m = toggled(m, 9, "left", "contact");
  expect(m.events).toHaveLength(1);
  m = withPoints(blank, -1, at(), { knee: { x: 1, y: 1 }, hip: { x: 2, y: 2 } });
  m = moved(m, at(), 0, "at/knee", { x: 9, y: 9 });
  expect(m.moments[0]?.points.knee).toEqual({ x: 9, y: 9 });
  m = without(m, at(), 0, "at/knee");
  expect(Object.keys(m.moments[0]?.points ?? {})).toEqual(["hip"]);
  expect(without(m, at(), 0, "at/hip").moments).toEqual([]);
  const lined = {
    ...blank,
    picture: {
      floor: [
        { x: 0, y: 0 },
        { x: 9, y: 0 },
      ],
    },
  } as Marks;
  expect(moved(lined, at(), -1, "line/floor/1", { x: 9, y: 3 }).picture.floor?.[1]).toEqual({ x: 9, y: 3 });
  expect(without(lined, at(), -1, "line/floor/0").picture.floor).toBeUndefined();
});

test("points that were proposed are corrected ones once a hand was at them", () => {
  const proposed = {
    ...blank,
    moments: [
      { frame: 0, template: "contact", side: "right", points: { hip: { x: 1, y: 1 } }, by: "proposed" },
    ],
  } as unknown as Marks;
  expect(withPoints(proposed, 0, at(), { hip: { x: 2, y: 2 } }).moments[0]?.by).toBe("corrected");
});
