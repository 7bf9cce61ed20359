import { expect, test } from "vitest";
import { mended } from "./markers";
import { judged, marks, read } from "./proposaltesting";
import { follow } from "./propose";
import { accept, fixed, lookedAt, proposedLines, proposedMarks, stepAt, unfixed } from "./proposed";
import { digits } from "./readings";
import { isIn } from "./send";

test("proposed points are hollow until they are put right or looked at", () => {
  const plain = proposedMarks(read(), marks(), 12);
  expect(plain).toHaveLength(12);
  expect(plain.every((m) => m.hollow)).toBe(true);
  expect(plain[0]).toMatchObject({ id: "pose/left/shoulder", at: { x: 200, y: 100 }, side: "left" });
  expect(plain[11]?.id).toBe("pose/right/toe");
  const put = fixed(marks(), 12, "right", "toe", { x: 5, y: 6 });
  const after = proposedMarks(read(), put, 12);
  expect(after[11]).toMatchObject({ at: { x: 5, y: 6 }, hollow: false });
  expect(after[10]?.hollow).toBe(true);
  expect(proposedMarks(read(), marks({ accepted: [{ from: 10, to: 12 }] }), 12).some((m) => m.hollow)).toBe(
    false,
  );
  expect(proposedMarks(read(), marks(), 13)).toEqual([]);
  expect(proposedMarks(undefined, marks(), 12)).toEqual([]);
});

test("a point that is put right twice has one place, and can be let go again", () => {
  const once = fixed(marks(), 12, "left", "knee", { x: 1, y: 1 });
  const twice = fixed(once, 12, "left", "knee", { x: 2, y: 2 });
  expect(twice.fixes).toEqual([{ frame: 12, foot: "left", place: "knee", at: { x: 2, y: 2 } }]);
  const other = fixed(twice, 13, "left", "knee", { x: 3, y: 3 });
  expect(unfixed(other, 12, "left", "knee").fixes).toEqual([
    { frame: 13, foot: "left", place: "knee", at: { x: 3, y: 3 } },
  ]);
  expect(once.fixes).toHaveLength(1); // nothing is changed in place: undo needs the old ones
});

test("lines join the points of each leg in its own hue", () => {
  const lines = proposedLines(proposedMarks(read(), marks(), 12));
  expect(lines).toHaveLength(12);
  expect(lines.filter((l) => l.side === "left")).toHaveLength(6);
  expect(proposedLines([])).toEqual([]);
});

test("a step is found by any frame of its time on the ground", () => {
  expect(stepAt(read(), 9)).toEqual({ foot: "left", from: 9, to: 26 });
  expect(stepAt(read(), 26)?.foot).toBe("left");
  expect(stepAt(read(), 28)).toBeUndefined();
  expect(stepAt(read(), 40)).toEqual({ foot: "right", from: 30, to: 47 });
  expect(stepAt(read(), 60), "without a toe-off there is no step").toBeUndefined();
});

test("accepting a stretch takes its events over and leaves the others", () => {
  const m = marks({
    events: [
      { frame: 3, foot: "right", kind: "toe-off" },
      { frame: 12, foot: "left", kind: "contact" },
    ],
  });
  const after = accept(m, read(), 9, 26);
  expect(after.events).toEqual([
    { frame: 3, foot: "right", kind: "toe-off" },
    { frame: 10, foot: "left", kind: "contact" },
    { frame: 25, foot: "left", kind: "toe-off" },
  ]);
  expect(after.accepted).toEqual([{ from: 9, to: 26 }]);
  expect(lookedAt(after, 20)).toBe(true);
  expect(lookedAt(after, 27)).toBe(false);
});

test("the box stays while the body is in its middle, and follows when it leaves", () => {
  const body = (x: number, y: number, tall: number) => [x, y, 1, x + 40, y + tall, 1];
  const box = { x: 140, y: 0, size: 360 };
  const tall = 230;
  const calm = body(300, 78, tall);
  expect(follow(box, calm, 640, 360)).toBe(box);
  const gone = follow(box, body(420, 78, tall), 640, 360);
  expect(gone.x).toBeGreaterThan(box.x + 60);
  const middle = gone.x + gone.size / 2;
  expect(Math.abs(middle - 440)).toBeLessThan(2);
  const near = follow(box, body(300, 20, 330), 640, 360);
  expect(near.size).toBeGreaterThan(box.size);
  expect(near.size).toBeLessThanOrEqual(640);
});

test("a reading is in the screening when its rounded value is", () => {
  const s = { trials: [{ test: "overstride", side: "left", slot: 1, value: 12.3 }] } as never;
  expect(isIn(s, judged({}))).toBe(true);
  expect(isIn(s, judged({ side: "right" }))).toBe(false);
  expect(isIn(undefined, judged({}))).toBe(false);
  expect(digits(judged({ unit: "mm", value: 251.6 }))).toBe("252");
});

test("what was done to a track is said in words", () => {
  expect(mended({ filled: 0, swapped: 0 })).toBe("no gaps, no swaps");
  expect(mended({ filled: 3, swapped: 2 })).toBe("3 points filled in; left and right put back in 2 frames");
});
