// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen, within } from "@testing-library/react";
import { MemoryRouter } from "react-router";
import { afterEach, expect, test } from "vitest";
import { CarePage } from "../../parts/care";
import { Why } from "../../parts/why";
import { NotNow, Seen } from "../review/seen";
import { Asks, Paused } from "./paused";

afterEach(cleanup);

test("what is not done now says the side, the reason and what is done meanwhile", () => {
  render(
    <Paused
      list={[
        {
          ladder: "calf-straight",
          name: "Calf, straight knee",
          side: "left",
          notch: "one leg 3 × 12",
          words: "calm phase: two legs only",
          instead: "two legs 3 × 15",
        },
        {
          ladder: "hip-bridge",
          name: "Bridge",
          side: "both",
          notch: "bridge 3 × 20 s",
          words: "flag closes it",
        },
      ]}
    />,
  );
  const rows = screen.getAllByRole("listitem");
  expect(within(rows[0] as HTMLElement).getByText("left")).toBeTruthy();
  expect(rows[0]?.textContent).toContain("Calm phase: two legs only.");
  expect(rows[0]?.textContent).toContain("Meanwhile two legs 3 × 15");
  expect(rows[1]?.textContent).toContain("both sides");
});

test("an open place asks, and leads to its questions", () => {
  render(
    <MemoryRouter>
      <Asks
        runner="r1"
        list={[
          { zone: "calf", side: "left", name: "calf, left", since: "2026-05-05", words: "Told on 5 May." },
        ]}
      />
    </MemoryRouter>,
  );
  expect(screen.getByRole("alert").textContent).toContain("Calf, left.");
  expect(screen.getByRole("link", { name: "Answer the questions" }).getAttribute("href")).toBe(
    "/runners/r1/log#day",
  );
});

test("the page of an emergency is loud and names whom to call", () => {
  render(
    <CarePage
      care={{ title: "Get care now", do: "Call 112.", signs: ["Foot cold"], after: "No training." }}
      name="Ines"
    />,
  );
  expect(screen.getByRole("alert", { name: "Get care now" }).textContent).toContain("Call 112.");
});

const ladder = {
  id: "p",
  pegs: [
    { side: "left", notch: 2, stopped: false },
    { side: "right", notch: 2, stopped: false },
  ],
  notches: [
    { words: "two legs 3 × 10", mistakes: [], cues: [] },
    { words: "one leg 3 × 8", mistakes: ["knee bends", "height lost"], cues: ["Full height"] },
  ],
  today: [
    { side: "left", state: "closed", notch: 1, why: ["restore phase: two legs"], limits: [] },
    { side: "right", state: "limited", notch: 2, why: [], limits: ["in a closed shoe"] },
  ],
} as never;

test("a side that may not says why, one that is limited says how", () => {
  const { rerender } = render(<NotNow p={ladder} side="left" />);
  expect(document.body.textContent).toContain("not now: restore phase: two legs");
  expect(document.body.textContent).toContain("meanwhile two legs 3 × 10");
  rerender(<NotNow p={ladder} side="right" />);
  expect(document.body.textContent).toContain("only in a closed shoe");
});

test("a mistake that is ticked is answered with its cue", () => {
  let line = {};
  const show = (l: object) => (
    <Seen p={ladder} side="left" l={l} name="Calf, left" set={(part) => (line = { ...line, ...part })} />
  );
  const { rerender } = render(show(line));
  fireEvent.click(screen.getByLabelText(/height lost/));
  expect(line).toEqual({ mistakes: ["height lost"] });
  rerender(show(line));
  expect(screen.getByText("say: Full height")).toBeTruthy();
  fireEvent.change(screen.getByLabelText("Calf, left: sets done"), { target: { value: "2x" } });
  expect(line).toEqual({ mistakes: ["height lost"], sets: "2" });
});

test("nothing is put right without a word why", () => {
  const said: string[] = [];
  render(<Why say="this changes a reading" onSay={(r) => said.push(r)} onLeave={() => said.push("left")} />);
  const save = screen.getByRole("button", { name: "Put it right" });
  expect((save as HTMLButtonElement).disabled).toBe(true);
  fireEvent.change(screen.getByLabelText("Why"), { target: { value: "mistyped" } });
  fireEvent.click(save);
  fireEvent.click(screen.getByRole("button", { name: "Leave it" }));
  expect(said).toEqual(["mistyped", "left"]);
});
