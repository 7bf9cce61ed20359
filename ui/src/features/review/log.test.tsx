import { cleanup, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, expect, test, vi } from "vitest";

vi.hoisted(() => {
  globalThis.fetch = async (r) => (await import("../testing")).standIn(r);
});
const { server, show } = await import("../testing");
const { LogView } = await import("./log");

const notch = {
  words: "one leg 3 × 8",
  mistakes: ["heel drops in"],
  cues: ["big toe down"],
  dose: { sets: 3 },
};
const ladder = (id: string, name: string, part: object = {}) => ({
  id,
  name,
  purpose: "strength",
  effort: "reserve",
  together: false,
  byRamp: false,
  today: [],
  pegs: [
    { side: "left", notch: 1 },
    { side: "right", notch: 1 },
  ],
  notches: [notch],
  dose: { sets: 3, reps: 8 },
  ...part,
});
const block = {
  id: "b1",
  runnerId: "r1",
  runnerName: "Ines Tarn",
  startOn: "2026-11-02",
  today: "2026-11-10",
  weeks: [{ days: [] }],
  routines: [],
  decisions: [],
  choices: {
    done: [
      { value: 1, words: "all" },
      { value: 0.8, words: "most" },
      { value: 0, words: "none" },
    ],
    compensated: [
      { value: 0, words: "clean" },
      { value: 0.34, words: "1 in 3" },
    ],
    reserve: [
      { value: 1, words: "1" },
      { value: 3, words: "3", enough: true },
    ],
  },
  prescriptions: [
    ladder("calf", "Calf raise"),
    ladder("hold", "Wall hold", { together: true, effort: "none" }),
  ],
};

const row = (name: string) => screen.getByRole("group", { name });
const pick = (group: string, choice: string) =>
  userEvent.click(within(row(group)).getByRole("radio", { name: choice }));
const sent = () => server.asked.filter((a) => a.what === "POST /api/blocks/b1/session-logs");

beforeEach(() => {
  localStorage.clear();
  server.asked.length = 0;
  server.answers = {
    "GET /api/runners/r1/block": { block },
    "GET /api/blocks/b1/session-logs": { items: [] },
    "POST /api/blocks/b1/session-logs": block,
  };
});
afterEach(() => {
  cleanup();
  vi.useRealTimers();
});

const open = async () => {
  show(<LogView />, "/runners/r1/log", "/runners/:id/log");
  await screen.findByText("Log the session of Mon 9 Nov");
};

test("one press says all done and clean; a row that differs keeps its side", async () => {
  await open();
  await userEvent.click(screen.getByRole("button", { name: "All done, all clean" }));
  await pick("Pain everywhere; change single rows below", "1");
  await pick("Calf raise, right: worst pain during, 0 to 10", "4");
  await pick("Calf raise, right: done", "most");
  await userEvent.click(screen.getByRole("button", { name: "Save and decide" }));
  await vi.waitFor(() => expect(sent()).toHaveLength(1), { timeout: 60_000 });
  expect(sent()[0]?.key).toBeTruthy();
  const body = sent()[0]?.body as { on: string; items: Record<string, unknown>[] };
  expect(body.on).toBe("2026-11-09");
  expect(body.items.map((i) => [i.prescriptionId, i.side, i.pain, i.done])).toEqual([
    ["calf", "left", 1, 1],
    ["calf", "right", 4, 0.8],
    ["hold", "both", 1, 1],
  ]);
  // All saved: on to the block.
  expect(await screen.findByText("elsewhere")).toBeTruthy();
});

test("a row that was not on this day is not sent, and with none left nothing can be", async () => {
  await open();
  await userEvent.click(screen.getByRole("checkbox", { name: "Calf raise, left: not on this day" }));
  expect(screen.queryByRole("group", { name: "Calf raise, left: done" })).toBeNull();
  await userEvent.click(screen.getByRole("button", { name: "Save and decide" }));
  await vi.waitFor(() => expect(sent()).toHaveLength(1), { timeout: 60_000 });
  const body = sent()[0]?.body as { items: { side: string }[] };
  expect(body.items.map((i) => i.side)).toEqual(["right", "both"]);
  cleanup();
  localStorage.clear();
  await open();
  for (const name of ["Calf raise, left", "Calf raise, right", "Wall hold, both"])
    await userEvent.click(screen.getByRole("checkbox", { name: `${name}: not on this day` }));
  expect(screen.getByRole("button", { name: "Save and decide" })).toHaveProperty("disabled", true);
});

test("what the server can't take stands at its row, what was typed stays", async () => {
  server.answers["POST /api/blocks/b1/session-logs"] = {
    status: 422,
    detail: "not saved",
    errors: [{ location: "body.items[1].pain", message: "say how much it hurt" }],
  };
  await open();
  await pick("Calf raise, left: worst pain during, 0 to 10", "2");
  await userEvent.click(screen.getByRole("button", { name: "Save and decide" }));
  expect(await screen.findByText(/say how much it hurt/)).toBeTruthy();
  const right = row("Calf raise, right: worst pain during, 0 to 10");
  expect(right.textContent).toContain("say how much it hurt");
  const left = row("Calf raise, left: worst pain during, 0 to 10");
  expect(within(left).getByRole("radio", { name: "2" })).toHaveProperty("checked", true);
});

test("another day opens empty, and the one typed on waits by name", async () => {
  await open();
  await pick("Calf raise, left: worst pain during, 0 to 10", "2");
  await userEvent.click(screen.getByRole("button", { name: "The day before" }));
  await screen.findByText("Log the session of Sun 8 Nov");
  const waiting = screen.getByText(/Typed and not saved yet/);
  await userEvent.click(within(waiting).getByRole("button", { name: "Mon 9 Nov" }));
  await screen.findByText("Log the session of Mon 9 Nov");
  await userEvent.click(screen.getByRole("button", { name: "The day after" }));
  await screen.findByText("Log the session of Tue 10 Nov");
  expect(screen.getByRole("button", { name: "The day after" })).toHaveProperty("disabled", true);
  expect(screen.getByText(/morning after is still to come/)).toBeTruthy();
});

test("a session is put right with a reason, by the same answers as it was logged with", async () => {
  server.answers["GET /api/blocks/b1/session-logs"] = {
    items: [
      {
        id: "s1",
        on: "2026-11-08",
        note: "",
        items: [
          {
            prescriptionId: "calf",
            side: "left",
            name: "Calf raise",
            words: "one leg 3 × 8",
            pain: 1,
            done: 1,
          },
        ],
      },
    ],
  };
  server.answers["POST /api/blocks/b1/session-logs/s1/correct"] = block;
  await open();
  await userEvent.click(await screen.findByRole("button", { name: "Put right or take back" }));
  const form = within(screen.getByRole("form", { name: "Session of Sun 8 Nov" }));
  expect(form.getByRole("button", { name: "Put it right" })).toHaveProperty("disabled", true);
  await userEvent.click(form.getByRole("radio", { name: "most" }));
  await userEvent.type(form.getByLabelText("Why"), "typed into the wrong row");
  await userEvent.click(form.getByRole("button", { name: "Put it right" }));
  const asked = () => server.asked.find((a) => a.what === "POST /api/blocks/b1/session-logs/s1/correct");
  await vi.waitFor(() => expect(asked()).toBeTruthy(), { timeout: 60_000 });
  expect(asked()?.body).toMatchObject({
    reason: "typed into the wrong row",
    session: { on: "2026-11-08", items: [{ prescriptionId: "calf", side: "left", pain: 1, done: 0.8 }] },
  });
});
