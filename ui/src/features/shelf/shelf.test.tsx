import { cleanup, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, expect, test, vi } from "vitest";

vi.hoisted(() => {
  globalThis.fetch = async (r) => (await import("../testing")).standIn(r);
});
const { server, show } = await import("../testing");
const { exerciseHas, ladderFits } = await import("./filters");
const { LadderForm } = await import("./ladderform");
const { ExerciseForm } = await import("./exercise");

const exercise = (id: string, part: object = {}) => ({
  id,
  name: `Exercise ${id}`,
  short: id,
  setUp: "Stand.",
  cues: ["tall"],
  mistakes: ["rushes"],
  equipment: [],
  sides: "each",
  timing: "any",
  purpose: "strength",
  position: "standing",
  rev: 0,
  ...part,
});
const ladder = (id: string, part: object = {}) => ({
  id,
  name: `Ladder ${id}`,
  family: "calf",
  purpose: "strength",
  place: "main",
  tissues: ["sole"],
  perWeek: "2–3 times",
  effort: "reserve",
  gates: ["hop"],
  equipment: ["step"],
  notches: [{ exercise: "a", typed: "2 x 10", gate: "hop" }],
  own: true,
  rev: 1,
  ...part,
});
const shelf = (part: object = {}) =>
  ({
    exercises: [exercise("a"), exercise("b", { cues: ["quiet knees"] })],
    ladders: [ladder("one")],
    kit: [
      { id: "step", name: "a step", always: false },
      { id: "wall", name: "a wall", always: true },
    ],
    purposes: ["strength", "range"],
    parts: [],
    traits: [],
    timings: ["any"],
    poses: [],
    ...part,
  }) as never;
const none = { q: "", purpose: "", kit: "", tissue: "", gate: "", show: "" };

beforeEach(() => {
  localStorage.clear();
  server.asked.length = 0;
  server.answers = { "GET /api/shelf": shelf() };
});
afterEach(cleanup);

test("filters: name or cue, kit that is needed, tissue, gate, whose", () => {
  const fits = (l: object, f: object) => ladderFits(ladder("one", l) as never, { ...none, ...f }, shelf());
  expect(fits({}, {})).toBe(true);
  expect(fits({}, { q: "LADDER one" })).toBe(true);
  expect(fits({}, { q: "tall" })).toBe(true);
  expect(fits({}, { q: "quiet knees" })).toBe(false);
  expect(fits({}, { kit: "step" })).toBe(true);
  expect(fits({}, { kit: "none" })).toBe(false);
  expect(fits({ equipment: ["wall"] }, { kit: "none" })).toBe(true);
  expect(fits({ tissues: [] }, { tissue: "none" })).toBe(true);
  expect(fits({}, { tissue: "front-shin" })).toBe(false);
  expect(fits({}, { gate: "hop" })).toBe(true);
  expect(fits({ gates: [] }, { gate: "none" })).toBe(true);
  expect(fits({ own: false, rev: 0 }, { show: "own" })).toBe(false);
  expect(fits({ own: false, rev: 2 }, { show: "own" })).toBe(true);
  expect(fits({ retired: true }, { show: "retired" })).toBe(true);
  expect(exerciseHas(exercise("b", { mistakes: ["rushes"] }) as never, " RUSHES ")).toBe(true);
});

test("a ladder is built notch by notch and sent as the server wants it; what it refuses stands at its notch", async () => {
  const user = userEvent.setup();
  show(<LadderForm />, "/shelf/ladders/new", "/shelf/ladders/new");
  await user.type(await screen.findByLabelText("Name"), "Quiet hops");
  await user.selectOptions(screen.getByLabelText("Notch 1, exercise"), "a");
  await user.click(screen.getByText("Add a notch"));
  expect((screen.getByLabelText("Notch 2, exercise") as HTMLSelectElement).value).toBe("a");
  await user.clear(screen.getByLabelText("Notch 2, dose"));
  await user.type(screen.getByLabelText("Notch 2, dose"), "3 x 12");
  await user.type(screen.getByLabelText(/Notch 2, added load/), "20");
  await user.click(screen.getByLabelText("up: notch 2"));
  expect((screen.getByLabelText("Notch 1, dose") as HTMLInputElement).value).toBe("3 x 12");
  server.answers["POST /api/shelf/ladders"] = {
    status: 422,
    errors: [{ location: "body.notches[1].dose", message: "volume falls" }],
  };
  await user.click(screen.getByText("Save"));
  expect(await screen.findByText(/volume falls/)).toBeTruthy();
  expect(server.asked.at(-1)?.body).toMatchObject({
    name: "Quiet hops",
    min: 2,
    max: 3,
    rev: 0,
    notches: [
      { exercise: "a", dose: "3 x 12", bodyPercent: 20 },
      { exercise: "a", dose: "2 x 10" },
    ],
  });
  await user.click(screen.getByLabelText("out: notch 2"));
  server.answers["POST /api/shelf/ladders"] = shelf();
  await user.click(screen.getByText("Save"));
  await vi.waitFor(() => expect(screen.getByLabelText("address").textContent).toBe("/shelf?show=own"), {
    timeout: 60_000,
  });
});

test("too many cues are said while they are typed, and nothing is sent", async () => {
  const user = userEvent.setup();
  show(<ExerciseForm />, "/shelf/exercises/a", "/shelf/exercises/:id");
  const cues = await screen.findByLabelText(/^Cues, one a line/);
  await user.clear(cues);
  await user.type(cues, "one{Enter}two{Enter}three{Enter}four");
  expect(await screen.findByText(/4 lines; expected at most 3/)).toBeTruthy();
  await user.click(screen.getByText("Save"));
  expect(server.asked.some((a) => a.what.startsWith("POST"))).toBe(false);
  await user.clear(cues);
  await user.type(cues, "one");
  server.answers["POST /api/shelf/exercises"] = shelf();
  await user.click(screen.getByText("Save"));
  await vi.waitFor(() => expect(server.asked.at(-1)?.what).toBe("POST /api/shelf/exercises"), {
    timeout: 60_000,
  });
  expect(server.asked.at(-1)?.body).toMatchObject({ id: "a", cues: ["one"] });
});

test("what is not on the shelf says so", async () => {
  show(<LadderForm />, "/shelf/ladders/nowhere", "/shelf/ladders/:id");
  expect(await screen.findByText("This ladder is not on the shelf")).toBeTruthy();
});
