import { cleanup, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, expect, test, vi } from "vitest";

vi.hoisted(() => {
  globalThis.fetch = async (r) => (await import("../testing")).standIn(r);
});
const { server, show } = await import("../testing");
const { Bench } = await import("./bench");

const item = (id: string, kind: string, part: object = {}) => ({
  id,
  name: `Runner ${id}`,
  goal: "",
  next: { kind, text: kind, loud: false },
  more: [],
  phases: [],
  heard: 0,
  group: "review",
  hurts: [],
  days: [],
  ...part,
});
const page = (items: unknown[], total = items.length) => ({ items, total });
const address = () => screen.getByLabelText("address").textContent;

beforeEach(() => {
  server.asked.length = 0;
  server.answers = {};
});
afterEach(cleanup);

test.each([
  ["decide", {}, "/review/r"],
  ["ask", {}, "/runners/r/log#day"],
  ["care", { blockWeek: 2 }, "/runners/r/block"],
  ["care", {}, "/runners/r"],
  ["spike", {}, "/runners/r/runs"],
  ["tender", {}, "/runners/r/ramp"],
  ["silent", {}, "/runners/r/log"],
  ["block-over", {}, "/runners/r/plan"],
  ["none", {}, "/runners/r"],
])("the next step %s leads where it is taken", async (kind, part, to) => {
  server.answers["GET /api/runners"] = page([item("r", kind, part)]);
  show(<Bench />);
  const row = await screen.findByText("Runner r");
  expect(row.closest("a")?.getAttribute("href")).toBe(to);
});

test("a loud step is marked by a sign as well as by colour, and why stands beside it", async () => {
  server.answers["GET /api/runners"] = page([
    item("a", "flag", { next: { kind: "flag", text: "Flag F-BONE", why: "since 2 Nov", loud: true } }),
    item("b", "none", { heard: 3 }),
  ]);
  show(<Bench />);
  const loud = (await screen.findByText("Runner a")).closest("a");
  expect(loud?.textContent).toContain("▲ Flag F-BONE");
  expect(loud?.textContent).toContain("since 2 Nov");
  expect(screen.getByText("Runner b").closest("a")?.textContent).not.toContain("▲");
  expect(screen.getByText("Runner b").closest("a")?.textContent).toContain("3 new");
  expect(loud?.textContent).not.toContain(" new");
});

test("arrows move through the runners, / finds, n adds", async () => {
  const user = userEvent.setup();
  server.answers["GET /api/runners"] = page([item("a", "none"), item("b", "none")]);
  show(<Bench />);
  await screen.findByText("Runner a");
  await user.click(screen.getByPlaceholderText("Find a runner"));
  await user.keyboard("{ArrowDown}");
  expect(document.activeElement?.textContent).toContain("Runner a");
  await user.keyboard("{ArrowDown}{ArrowDown}");
  expect(document.activeElement?.textContent).toContain("Runner b");
  await user.keyboard("{ArrowUp}");
  expect(document.activeElement?.textContent).toContain("Runner a");
  await user.keyboard("n");
  expect(address()).toBe("/runners/new");
});

test("nobody of the name says so and lets everybody back; Enter opens the first found", async () => {
  const user = userEvent.setup();
  server.answers["GET /api/runners"] = (u: URL) =>
    u.searchParams.get("search") === "x" ? page([]) : page([item("a", "silent")]);
  show(<Bench />);
  const find = await screen.findByPlaceholderText("Find a runner");
  await user.type(find, "x");
  await user.click(await screen.findByText("Show everybody"));
  await screen.findByText("Runner a");
  await user.type(find, "{Enter}");
  expect(address()).toBe("/runners/a/log");
});

test("an empty bench says what comes first; the pages of a long one come by themselves", async () => {
  server.answers["GET /api/runners"] = page([]);
  show(<Bench />);
  await screen.findByText("No runners yet");
  cleanup();
  server.answers["GET /api/runners"] = (u: URL) =>
    u.searchParams.get("page") === "1" ? page([item("b", "none")], 2) : page([item("a", "none")], 2);
  show(<Bench />);
  await screen.findByText("Runner a");
  await screen.findByText("Runner b");
});

test("a bundle that is none changes nothing and says so; one that is leads to its runner", async () => {
  const user = userEvent.setup();
  server.answers["GET /api/runners"] = page([item("a", "none")]);
  show(<Bench />);
  const file = await screen.findByLabelText("Import a runner from a bundle file");
  await user.upload(file, new File(["not json"], "a.json", { type: "application/json" }));
  expect((await screen.findByRole("alert")).textContent).toContain("a.json is not a runner's bundle");
  expect(server.asked.some((a) => a.what.startsWith("POST"))).toBe(false);
  server.answers["POST /api/bundles"] = {
    status: 422,
    errors: [{ location: "body.version", message: "bring the program up to date" }],
  };
  await user.upload(file, new File(["{}"], "b.json", { type: "application/json" }));
  expect((await screen.findByText(/bring the program up to date/)).textContent).toContain("version");
  server.answers["POST /api/bundles"] = { id: "new" };
  await user.upload(file, new File(["{}"], "c.json", { type: "application/json" }));
  await vi.waitFor(() => expect(address()).toBe("/runners/new"), { timeout: 60_000 });
});
