import { afterEach, expect, test } from "vitest";
import { distance, inUnits, kept, km, shown, unit, unitsAre } from "./measures";
import { readNumber } from "./numbers";

afterEach(() => unitsAre(undefined));

test("kilometres and kilograms are left as they are", () => {
  unitsAre("metric");
  expect(distance(8450)).toBe("8.4 km");
  expect(shown("kg", 63.5)).toBe("63.5");
  expect(readNumber("8,5", "km", "8.5").value).toBe(8.5);
  const said = { words: "up to 12.5\u00a0km is as usual", n: 3 };
  expect(inUnits(said)).toBe(said);
});

test("miles and pounds are read and typed, and kept in km and kg", () => {
  unitsAre("imperial");
  expect(unit("km")).toBe("mi");
  expect(unit("kg")).toBe("lb");
  expect(distance(16093.44)).toBe("10.0 mi");
  expect(km(42195, 0)).toBe("26");
  expect(shown("km", 42)).toBe("26.1");
  expect(shown("km", undefined)).toBe("");
  expect(readNumber("5", "km", "8.5").value).toBe(8.047);
  expect(readNumber("x", "km", "8.5").error).toContain("mi");
  expect(readNumber("12", "min", "10").value).toBe(12);
  expect(kept("kg", 2.5)).toBe(1.134);
  expect(
    inUnits({
      words: "up to 16.1\u00a0km is as usual, at 12\u00a0km/h",
      list: ["27.2\u00a0kg", "500 km on the pair, typed"],
      none: null,
      n: 3,
    }),
  ).toEqual({
    words: "up to 10\u00a0mi is as usual, at 7.5\u00a0mph",
    list: ["60\u00a0lb", "500 km on the pair, typed"],
    none: null,
    n: 3,
  });
});
