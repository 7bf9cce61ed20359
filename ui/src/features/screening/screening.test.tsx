// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { Schema } from "../../api/client";
import { dayMonth, plusDays, weekDay } from "../../parts/dates";
import { SoleMap } from "../../parts/solemap";
import { setInches } from "../../parts/units";
import { emptyEntry, readEntry } from "./trials";

afterEach(cleanup);
beforeEach(() => localStorage.clear());

const wall = { id: "knee-to-wall", unit: "cm", min: 0, max: 25, decimals: 1 } as Schema["ScreeningTest"];
const raise = {
  id: "single-leg-raise",
  unit: "reps",
  min: 0,
  max: 150,
  decimals: 0,
} as Schema["ScreeningTest"];
const typed = (text: string, more = {}) => readEntry(wall, { ...emptyEntry, text, ...more });

test("a length says its unit, or the device's choice holds", () => {
  expect(typed("9,5").trial?.value).toBe(9.5);
  expect(typed("4 in").trial?.value).toBeCloseTo(10.16);
  setInches(true);
  expect(typed("4").trial?.value).toBeCloseTo(10.16);
  expect(typed("9 cm").trial?.value).toBe(9);
  expect(readEntry(raise, { ...emptyEntry, text: "20" }).trial?.value).toBe(20);
});

test("what can't be read is answered, and nothing is not a trial", () => {
  expect(typed("")).toEqual({});
  expect(typed("nine").error).toContain("cm");
  expect(typed("9", { pain: "bad" }).error).toContain("0 to 10");
  expect(typed("", { sharp: true }).trial).toMatchObject({ sharpPain: true, value: undefined });
});

test("a block stands in for the angle, both lengths or none", () => {
  const block = (height: string, length: string) =>
    readEntry(wall, { ...emptyEntry, block: { height, length, floor: true } });
  expect(block("2.5", "5").trial).toMatchObject({ blockCm: 2.5, lengthCm: 5, alongFloor: true });
  expect(block("2.5", "").error).toContain("together");
  expect(block("", "")).toEqual({});
  expect(block("x", "5").error).toContain("Block");
});

test("a tap on the map names zone and side, left as left", async () => {
  const pick = vi.fn();
  render(<SoleMap complaints={[{ zone: "heel", side: "right" }]} pick={pick} />);
  expect(screen.getByRole("button", { name: "heel underside, right" }).getAttribute("aria-pressed")).toBe(
    "true",
  );
  const left = screen.getByRole("button", { name: "heel underside, left" });
  expect(left.getAttribute("aria-pressed")).toBe("false");
  await userEvent.click(left);
  expect(pick).toHaveBeenLastCalledWith("heel", "left");
  screen.getByRole("button", { name: "calf, right" }).focus();
  await userEvent.keyboard("{Enter}");
  expect(pick).toHaveBeenLastCalledWith("calf", "right");
});

test("dates are counted without the device's zone", () => {
  expect(plusDays("2026-12-31", 1)).toBe("2027-01-01");
  expect(plusDays("2026-03-29", -1)).toBe("2026-03-28");
  expect(dayMonth("2026-11-24")).toBe("24 Nov");
  expect(weekDay("2026-11-24")).toBe("Tue 24 Nov");
});
