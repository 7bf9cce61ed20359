import { expect, test } from "vitest";
import { km } from "../features/running/hooks";
import { dayMonth, moment, plusDays, saidIn, weekDay } from "./dates";
import { show } from "./numbers";

test("dates are the day that is written, whatever the device's zone", () => {
  expect(dayMonth("2026-11-25")).toBe("25 Nov");
  expect(weekDay("2026-11-25")).toBe("Wed 25 Nov");
  expect(weekDay("2024-02-29")).toBe("Thu 29 Feb");
});

test("days are added over the end of a year and the change of the clock", () => {
  expect(plusDays("2026-12-31", 1)).toBe("2027-01-01");
  expect(plusDays("2026-03-28", 2)).toBe("2026-03-30");
  expect(plusDays("2026-10-24", 2)).toBe("2026-10-26");
  expect(plusDays("2024-03-01", -1)).toBe("2024-02-29");
});

test("numbers keep their decimals and say nothing where there is nothing", () => {
  expect(show(9, 1)).toBe("9.0");
  expect(show(undefined, 1)).toBe("");
  expect(km(11450)).toBe("11.4");
  expect(km(0)).toBe("0.0");
});

test("a moment is said in the practice's zone, and an unknown zone changes nothing", () => {
  saidIn("Pacific/Auckland");
  expect(moment("2026-05-04T20:15:00Z")).toBe("5 May, 08:15");
  saidIn("No/Where");
  expect(moment("2026-05-04T20:15:00Z")).toBe("5 May, 08:15");
  saidIn("Europe/Lisbon");
  expect(moment("2026-05-04T20:15:00Z")).toBe("4 May, 21:15");
});
