// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test, vi } from "vitest";
import { api, type Schema } from "../../api/client";
import { DecisionLine, folded } from "./decision";

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

type Decision = Schema["DecisionView"];
const p = { name: "Calf, straight knee", pegs: [], notches: [] } as unknown as Schema["PrescriptionView"];

const decision = (part: Partial<Decision>, verdict: Decision["decision"]["verdict"] = "up"): Decision => ({
  id: `${part.side ?? "left"}-1`,
  version: 3,
  prescriptionId: "p",
  ladderName: p.name,
  side: "left",
  on: "2027-01-04",
  state: "proposed",
  move: "one leg 3 × 8 → 3 × 12",
  sentence: "Up: one leg 3 × 8 → 3 × 12, left.",
  because: "Two clean sessions running",
  reasons: [],
  forUp: [],
  life: [],
  decision: { verdict, row: 10, from: 7, to: 8, baseline: 1, nextLook: "2027-01-05" } as Decision["decision"],
  ...part,
});

function show(...ds: [Decision, ...Decision[]]) {
  render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { mutations: { retry: false } } })}>
      <DecisionLine ds={ds} p={p} />
    </QueryClientProvider>,
  );
}

const posted = () =>
  vi
    .spyOn(api, "POST")
    .mockImplementation((async () => ({ data: { runnerId: "r" }, response: new Response() })) as never);

test("what can't be accepted today says why", () => {
  show(decision({ barred: "two ladders went up this week already" }));
  expect(screen.getByText(/two ladders went up/)).toBeTruthy();
  expect(screen.getByRole("button", { name: /^Accept/ })).toHaveProperty("disabled", true);
});

test("both sides are answered and taken back together", async () => {
  const post = posted();
  const both = folded([decision({ side: "right" }), decision({})]);
  expect(both).toHaveLength(1);
  show(...(both[0] as [Decision, Decision]));
  await userEvent.click(screen.getByRole("button", { name: /^Accept: .*both/ }));
  expect(post.mock.calls.map((c) => c[0])).toEqual(Array(2).fill("/api/decisions/{id}/accept"));
  cleanup();
  post.mockClear();
  show(decision({ state: "accepted", mayTakeBack: true }));
  await userEvent.click(screen.getByRole("button", { name: /^take back the answer/ }));
  expect(post).toHaveBeenCalledWith("/api/decisions/{id}/take-back", {
    params: { path: { id: "left-1" } },
    body: { version: 3 },
  });
});

test("a stop and a way back are not overridden; a hold is", () => {
  show(decision({ state: "applied" }, "stop"));
  expect(screen.queryByRole("button", { name: /^override/ })).toBeNull();
  cleanup();
  const back = decision({}, "back");
  show({ ...back, decision: { ...back.decision, resume: true } });
  expect(screen.getByText("start again")).toBeTruthy();
  expect(screen.queryByRole("button", { name: /^override/ })).toBeNull();
  cleanup();
  show(decision({ state: "applied" }, "hold"));
  expect(screen.getByRole("button", { name: /^override/ })).toBeTruthy();
});

// The panel measures its arrow; nothing is laid out here.
vi.stubGlobal(
  "ResizeObserver",
  class {
    observe() {}
    unobserve() {}
    disconnect() {}
  },
);

test("why tells what is not needed and what became of it", async () => {
  show(
    decision({
      forUp: [
        { text: "next mornings (not needed for this ladder)", met: true, idle: true },
        { text: "pain 3 or less in both", met: false },
      ],
      life: ["4 January · Waits for the next morning", "5 January · Proposed: the next morning is known"],
    }),
  );
  await userEvent.click(screen.getByRole("button", { name: /^Why/ }));
  expect(screen.getByText(/not needed/).parentElement?.textContent).toMatch(/^–/);
  expect(screen.getByText(/pain 3 or less/).parentElement?.textContent).toMatch(/^missing/);
  expect(screen.getByText(/5 January · Proposed/)).toBeTruthy();
});
