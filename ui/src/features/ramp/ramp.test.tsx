// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { MemoryRouter } from "react-router";
import { afterEach, expect, test, vi } from "vitest";
import { readCounts } from "./count";
import { Cues } from "./cues";
import { Drawing } from "./drawing";
import type { Plan, Terms, View, Week } from "./hooks";
import { readPace } from "./pace";
import { TermsForm } from "./terms";
import { weekSentence } from "./weektable";

afterEach(cleanup);

test("a pace is minutes and seconds; what can't be one is left alone", () => {
  expect(readPace("6:05")).toBe(365);
  expect(readPace("6")).toBe(360);
  expect(readPace(" 5.30 ")).toBe(330);
  expect(readPace("")).toBe(0);
  for (const bad of ["6:75", "fast", "6:5", "-4"]) expect(readPace(bad)).toBeNull();
});

test("counts are whole numbers, however they are parted", () => {
  expect(readCounts("41 42, 41;43")).toEqual([41, 42, 41, 43]);
  for (const bad of ["", "41 four", "41.5", "-3", "1 ".repeat(21)]) expect(readCounts(bad)).toBeNull();
});

const terms: Terms = {
  from: "2027-01-04",
  goal: "walk",
  targetPercent: 30,
  weeklyMetres: 40000,
  paceSeconds: 360,
  runDays: [1, 3],
  strengthDays: [0],
};

const week = (part: Partial<Week>): Week => ({
  monday: "2027-01-04",
  state: { stage: "home", step: 1, weeks: 1 },
  dose: { homeMinutes: 30, walks: 0, walkMinutes: 0, walkTimes: 1, runs: [], bareRuns: [] },
  outcome: "ahead",
  reasons: [],
  percent: 0,
  shut: [],
  out: [],
  metres: 40000,
  minimalMetres: 0,
  bareMetres: 0,
  usualMetres: 40000,
  sharePercent: 0,
  achilles: { usual: 100, minimal: 0, bare: 0, plain: 100 },
  forefoot: { usual: 50, minimal: 0, bare: 0, plain: 50 },
  reached: false,
  words: "home 30 min a day",
  name: "barefoot at home",
  ...part,
});

test("a week says what it holds, what became of it and why", () => {
  expect(weekSentence(week({}))).toBe("home 30 min a day; 40.0 km in usual shoes, 0.0 minimal.");
  expect(weekSentence(week({ outcome: "repeat", reasons: ["calves over 4"], metres: 0 }))).toBe(
    "home 30 min a day; done again; calves over 4.",
  );
  expect(
    weekSentence(
      week({ held: "lighter week", bareMetres: 500, wait: { words: "stance of 30 s", ever: true } }),
    ),
  ).toContain("0.5 bare; lighter week: nothing rises; waits for stance of 30 s.");
});

const plan = (weeks: Week[]): Plan => ({
  terms,
  start: "2027-01-04",
  weeks,
  now: 1,
  range: { earliest: "2027-03-01", futures: 1000, reached: 990 },
  strikes: [],
  refer: false,
  drops: [],
  says: [],
});

test("the drawing is read week by week by keys, and stands as a table too", async () => {
  const weeks = Array.from({ length: 11 }, (_, i) =>
    week({
      monday: new Date(Date.UTC(2027, 0, 4 + 7 * i)).toISOString().slice(0, 10),
      outcome: i === 0 ? "passed" : i === 1 ? "open" : "ahead",
      words: `week ${i + 1}`,
    }),
  );
  render(<Drawing v={{ gates: [] } as unknown as View} plan={plan(weeks)} today="2027-01-13" />);
  const axis = screen.getByRole("slider", { name: "Week on the ramp" });
  expect(axis.getAttribute("aria-valuetext")).toContain("Week 2, from 11 Jan");
  axis.focus();
  await userEvent.keyboard("{ArrowRight}");
  expect(axis.getAttribute("aria-valuenow")).toBe("3");
  await userEvent.keyboard("{End}{ArrowRight}");
  expect(axis.getAttribute("aria-valuenow")).toBe("11");
  await userEvent.keyboard("{Home}{ArrowLeft}");
  expect(axis.getAttribute("aria-valuenow")).toBe("1");
  const table = screen.getByRole("table", { name: "The ramp week by week" });
  expect(within(table).getAllByRole("row")).toHaveLength(9);
  await userEvent.click(screen.getByRole("button", { name: "all 11 weeks" }));
  expect(within(table).getAllByRole("row")).toHaveLength(12);
  await userEvent.click(screen.getByRole("radio", { name: "forefoot bone" }));
  expect(screen.getByText(/dose on forefoot bone/)).toBeDefined();
});

function Form({ start, seen }: { start: Terms; seen: (t: Terms) => void }) {
  const [t, setT] = useState(start);
  seen(t);
  return (
    <TermsForm
      t={t}
      set={(part) => setT({ ...t, ...part })}
      bad={{ "terms.begin": "the gate is closed" }}
      away={0}
      setAway={() => {}}
      begun={false}
    />
  );
}

test("the wish asks only for what it needs", async () => {
  let t = terms;
  render(<Form start={terms} seen={(x) => (t = x)} />);
  expect(screen.queryByLabelText(/in minimal shoes/)).toBeNull();
  expect(screen.getByText(/the gate is closed/)).toBeDefined();
  await userEvent.click(screen.getByRole("radio", { name: "bare feet" }));
  expect(screen.getByRole("slider", { name: /barefoot/ })).toBeDefined();
  expect(screen.getByText("Strides and runs wait for one")).toBeDefined();
  await userEvent.type(screen.getByRole("textbox", { name: "Minimal shoe" }), "thin");
  expect(t.shoe).toBe("thin");
  const runs = within(screen.getByRole("group", { name: "Easy runs on" }));
  await userEvent.click(runs.getByRole("checkbox", { name: "Sun" }));
  await userEvent.click(runs.getByRole("checkbox", { name: "Tue" }));
  expect(t.runDays).toEqual([3, 6]);
  const pace = screen.getByRole("textbox", { name: /Easy pace/ });
  await userEvent.clear(pace);
  await userEvent.type(pace, "5:45");
  await userEvent.tab();
  expect(t.paceSeconds).toBe(345);
  await userEvent.type(screen.getByRole("textbox", { name: "Heel drop, now, mm" }), "10 mm");
  expect(t.dropMm).toBe(10);
});

test("one cue at a time: the one now can be begun, the due one asks for a look", () => {
  const cue = (part: Partial<View["cues"][number]>) => ({
    id: "posture",
    name: "Posture",
    say: "Tall.",
    ladder: "form-tall",
    relook: [],
    for: [],
    state: "now" as const,
    drill: "tall 4 × 20 s",
    ...part,
  });
  const view = (cues: View["cues"]) =>
    ({
      today: "2027-01-20",
      cues,
      shift: {
        allowed: false,
        missing: ["the calf first"],
        weeksMin: 8,
        to: "mid",
        achillesPercent: 12,
        words: "A result.",
      },
    }) as unknown as View;
  const show = (v: View) => (
    <QueryClientProvider client={new QueryClient()}>
      <MemoryRouter>
        <Cues id="x" v={v} />
      </MemoryRouter>
    </QueryClientProvider>
  );
  vi.stubGlobal("fetch", vi.fn());
  const { rerender } = render(show(view([cue({}), cue({ id: "arms", name: "Arms", state: "later" })])));
  expect(screen.getAllByRole("button")).toHaveLength(1);
  expect(screen.getByText(/12 % more dose/)).toBeDefined();
  rerender(show(view([cue({ from: "2027-01-04", due: "2027-01-18" })])));
  expect(screen.getByText(/Look again now/)).toBeDefined();
  expect(screen.getByRole("button", { name: "It took" })).toBeDefined();
  vi.unstubAllGlobals();
});
