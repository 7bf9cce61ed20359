// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test } from "vitest";
import type { LoadView } from "./hooks";
import { Timeline } from "./timeline";

afterEach(cleanup);

const day = (on: string, metres: number, more: object = {}) => ({ on, metres, dose: {}, peak: {}, ...more });

const view = {
  today: "2026-05-05",
  days: [
    day("2026-05-01", 0),
    day("2026-05-02", 8000, { firstStep: 0 }),
    day("2026-05-03", 0, { firstStep: 3, pain: 5 }),
    day("2026-05-04", 12000, { runPain: 2 }),
    day("2026-05-05", 0, { rest: 1 }),
  ],
  events: [{ on: "2026-05-03", kind: "flare", text: "flare, calf" }],
  ladders: [],
  weeks: [],
  notches: [],
  usualWeek: [],
} as unknown as LoadView;

test("arrows read the days, and what is missing is said, not taken for nought", async () => {
  render(<Timeline v={view} />);
  const slider = screen.getByRole("slider", { name: "Day on the time axis" });
  const says = () => slider.getAttribute("aria-valuetext");
  expect(says()).toBe("Tue 5 May: 0.0 km, first steps not known, at rest 1");
  slider.focus();
  await userEvent.keyboard("{ArrowLeft}");
  expect(says()).toBe("Mon 4 May: 12.0 km, first steps not known, pain on the run 2");
  await userEvent.keyboard("{ArrowLeft}");
  expect(says()).toBe("Sun 3 May: 0.0 km, first steps 3, pain in the session 5; flare, calf");
  await userEvent.keyboard("{ArrowLeft}");
  expect(says()).toBe("Sat 2 May: 8.0 km, first steps 0");
  await userEvent.keyboard("{Home}{ArrowLeft}");
  expect(says()).toContain("Fri 1 May");
  await userEvent.keyboard("{End}{ArrowRight}");
  expect(says()).toContain("Tue 5 May");
});
