import { expect, test } from "vitest";
import {
  agreed,
  type Block,
  type Draft,
  firstDate,
  reduce,
  rowsOf,
  sessionOf,
  typedOn,
  unsaved,
  usedOf,
} from "./model";

const p = (id: string, part: object = {}) => ({
  id,
  purpose: "strength",
  effort: "reserve",
  together: false,
  byRamp: false,
  ...part,
});
const block = (part: object = {}) =>
  ({
    startOn: "2026-11-02",
    today: "2026-11-10",
    weeks: [{ days: [] }],
    routines: [{ id: "pair", items: ["calf", "part"] }],
    prescriptions: [
      p("calf"),
      p("hold", { effort: "twenty", together: true }),
      p("ball", { purpose: "release", effort: "none" }),
      p("ramp", { byRamp: true }),
      p("part", { routine: "pair", effort: "none" }),
    ],
    ...part,
  }) as unknown as Block;
const draft: Draft = { on: "2026-11-09", days: {} };

test("the log opens at yesterday where yesterday has no session, and never before the block", () => {
  expect(firstDate(block())).toBe("2026-11-09");
  const logged = { weeks: [{ days: [{ on: "2026-11-09", logged: true }] }] };
  expect(firstDate(block(logged))).toBe("2026-11-10");
  expect(firstDate(block({ startOn: "2026-11-10" }))).toBe("2026-11-10");
});

test("every side has its row, both legs together one, and what the ramp brings none", () => {
  expect(rowsOf(block()).map((r) => r.key)).toEqual([
    "calf/left",
    "calf/right",
    "hold/both",
    "ball/left",
    "ball/right",
  ]);
});

test("what is typed stays with its day, and days outside of the block are not gone to", () => {
  let d = reduce(draft, { do: "type", part: { note: "warm" } });
  d = reduce(d, { do: "day", to: "2026-11-08", from: "2026-11-02", until: "2026-11-10" });
  expect(typedOn(d)).toEqual({ lines: {}, note: "" });
  expect(unsaved(d)).toEqual(["2026-11-09"]);
  expect(reduce(d, { do: "day", to: "2026-11-01", from: "2026-11-02", until: "2026-11-10" })).toBe(d);
  expect(reduce(d, { do: "day", to: "2026-11-11", from: "2026-11-02", until: "2026-11-10" })).toBe(d);
  d = reduce(d, { do: "row", key: "calf/left", part: { pain: 2 } });
  d = reduce(d, { do: "row", key: "calf/left", part: { done: 1 } });
  expect(typedOn(d).lines["calf/left"]).toEqual({ pain: 2, done: 1 });
});

test("one press for all rows changes those that are done; what agrees shows once", () => {
  const rows = rowsOf(block());
  let d = reduce(draft, { do: "row", key: "calf/right", part: { skipped: true } });
  const used = usedOf(rows, typedOn(d));
  expect(used.map((r) => r.key)).not.toContain("calf/right");
  d = reduce(d, {
    do: "rows",
    rows: used,
    part: (x) => (x.purpose === "release" ? { sore: 3 } : { pain: 3 }),
  });
  const read = () => agreed(used, typedOn(d), (l, x) => (x.purpose === "release" ? l.sore : l.pain));
  expect(read()).toBe(3);
  d = reduce(d, { do: "row", key: "hold/both", part: { pain: 4 } });
  expect(read()).toBeUndefined();
  expect(agreed(used, typedOn(d), () => null)).toBeUndefined();
});

test("a session is sent as typed: release has its own scale, open questions stay open", () => {
  let d = draft;
  for (const [key, part] of [
    [
      "calf/left",
      { pain: 2, sore: 9, done: 1, clean: 0, reserve: 3, sure: 1, cramp: "12", kg: "7,5", sets: "" },
    ],
    ["hold/both", { pain: 1, sure: 0, reserve: 3, mistakes: [] }],
    ["ball/left", { pain: 7, sore: 4, reacted: true }],
    ["calf/right", { skipped: true, pain: 8 }],
  ] as const)
    d = reduce(d, { do: "row", key, part: { ...part, mistakes: undefined } });
  d = reduce(d, { do: "type", part: { morning: 1, litmus: "same" } });
  const s = sessionOf(block(), d.on, typedOn(d));
  const items = s.items ?? [];
  expect(items).toHaveLength(4);
  expect(items[0]).toMatchObject({
    prescriptionId: "calf",
    side: "left",
    pain: 2,
    reserve: 3,
    crampAt: 12,
    loadKg: 7.5,
  });
  expect(items[0]?.sureOfTwentyPercentMore).toBeUndefined();
  expect(items[0]?.setsDone).toBeUndefined();
  expect(items[1]).toMatchObject({ side: "both", sureOfTwentyPercentMore: false });
  expect(items[1]?.reserve).toBeUndefined();
  expect(items[2]).toMatchObject({ soreSpot: 4, reacted: true });
  expect(items[2]?.pain).toBeUndefined();
  expect(s).toMatchObject({ nextMorning: 1, litmus: "same", note: undefined });
  expect(sessionOf(block(), "2026-11-10", typedOn(d)).nextMorning).toBeUndefined();
});

test("a saved day leaves the draft, and the oldest of the others is next", () => {
  const two: Draft = {
    on: "2026-11-09",
    days: { "2026-11-09": { lines: {}, note: "a" }, "2026-11-07": { lines: {}, note: "b" } },
  };
  expect(reduce(two, { do: "saved", on: "2026-11-09" })).toMatchObject({ on: "2026-11-07" });
  const one = reduce(reduce(two, { do: "saved", on: "2026-11-09" }), { do: "saved", on: "2026-11-07" });
  expect(one).toEqual({ on: "2026-11-07", days: {} });
});

test("a routine is logged as one, its parts in order, with what it measures", () => {
  expect(rowsOf(block(), "pair").map((r) => r.key)).toEqual([
    "calf/left",
    "calf/right",
    "part/left",
    "part/right",
  ]);
  const sent = sessionOf(block(), "2026-11-09", {
    ...typedOn(draft),
    routine: "pair",
    before: { left: "9,5", right: "9" },
    after: { left: "10" },
    felt: "calf",
  });
  expect(sent.routine).toBe("pair");
  expect(sent.compared).toEqual([{ side: "left", before: 9.5, after: 10 }]);
  expect(sent.felt).toBe("calf");
  expect(sent.items).toHaveLength(4);
  const own = sessionOf(block(), "2026-11-09", { ...typedOn(draft), felt: "calf" });
  expect([own.routine, own.compared, own.felt]).toEqual([undefined, undefined, undefined]);
});
