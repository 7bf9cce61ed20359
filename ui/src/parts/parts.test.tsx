// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test } from "vitest";
import { Choice, painScale } from "./field";
import { readNumber } from "./numbers";
import { NotchRail } from "./rail";

afterEach(cleanup);

test("numbers are read with comma or point, and letters are answered", () => {
  expect(readNumber("9,5", "cm", "9.5")).toEqual({ value: 9.5 });
  expect(readNumber(" -2 ", "cm", "9.5")).toEqual({ value: -2 });
  expect(readNumber("", "cm", "9.5")).toEqual({});
  expect(readNumber("nine", "cm", "9.5").error).toContain("like 9.5");
  expect(readNumber("1e3", "cm", "9.5").error).toBeDefined();
});

test("digits choose pain, one then nought is ten", async () => {
  let value: number | undefined;
  const view = () => <Choice label="Pain" options={painScale} value={value} onChange={(v) => (value = v)} />;
  const { rerender } = render(view());
  screen.getByRole("radio", { name: "0" }).focus();
  await userEvent.keyboard("7");
  expect(value).toBe(7);
  rerender(view());
  await userEvent.keyboard("1");
  rerender(view());
  await userEvent.keyboard("0");
  expect(value).toBe(10);
});

test("a nought over a one that stood there is nought, not ten", async () => {
  let value: number | undefined = 1;
  const view = () => <Choice label="Pain" options={painScale} value={value} onChange={(v) => (value = v)} />;
  render(view());
  screen.getByRole("radio", { name: "1" }).focus();
  await userEvent.keyboard("0");
  expect(value).toBe(0);
});

test("arrows read the notches of a rail from the peg on", async () => {
  const notches = ["2 × 10", "3 × 10", "3 × 15"].map((dose) => ({
    words: `two legs ${dose}`,
    dose,
    short: "two legs",
    name: "Heel raise",
    setUp: "Stand tall",
    cues: [],
    cautions: [],
    mistakes: [],
    source: "common practice",
    exercise: "raise-two",
    locked: dose === "3 × 15" ? "one-leg calf" : undefined,
  }));
  render(
    <NotchRail
      name="Calf"
      notches={notches}
      together
      pegs={[
        { side: "left", notch: 2, stopped: false },
        { side: "right", notch: 2, stopped: false },
      ]}
    />,
  );
  const rail = screen.getByRole("slider", { name: /Calf/ });
  expect(rail.getAttribute("aria-valuetext")).toContain("left at 2, two legs 3 × 10");
  rail.focus();
  await userEvent.keyboard("{ArrowRight}");
  expect(rail.getAttribute("aria-valuetext")).toBe("notch 3: two legs 3 × 15");
  expect(screen.getByText(/closed: one-leg calf/)).toBeTruthy();
  await userEvent.keyboard("{ArrowRight}{ArrowRight}");
  expect(rail.getAttribute("aria-valuenow")).toBe("3");
});
