import { cleanup, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, expect, test, vi } from "vitest";

vi.hoisted(() => {
  globalThis.fetch = async (r) => (await import("../testing")).standIn(r);
});
const { server, show } = await import("../testing");
const { draftsOf } = await import("../../parts/drafts");
const { EditRunner, NewRunner } = await import("./form");

beforeEach(() => {
  localStorage.clear();
  draftsOf("p", "u");
  server.asked.length = 0;
  server.answers = {};
});
afterEach(cleanup);
const address = () => screen.getByLabelText("address").textContent;

test("a runner is added once under one key; numbers take a comma, what is left open is not sent", async () => {
  const user = userEvent.setup();
  show(<NewRunner />, "/runners/new", "/runners/new");
  await user.type(screen.getByLabelText("Name"), "Wren Castell");
  await user.type(screen.getByLabelText("Body mass, kg"), "63,5");
  await user.click(screen.getByLabelText("female"));
  await user.click(screen.getAllByLabelText("no")[0] as HTMLElement);
  await user.click(screen.getByLabelText("3"));
  server.answers["POST /api/runners"] = { id: "w" };
  await user.click(screen.getByText("Add the runner"));
  await vi.waitFor(() => expect(address()).toBe("/runners/w"), { timeout: 60_000 });
  const sent = server.asked.find((a) => a.what === "POST /api/runners");
  expect(sent?.body).toEqual({
    name: "Wren Castell",
    sex: "female",
    massKg: 63.5,
    goal: "",
    note: "",
    firstStructuredWork: false,
    intakeFirstStep: 3,
  });
  expect(sent?.key).toBeTruthy();
  expect(localStorage.length).toBe(0);
});

test("somebody else was first: both stand there, and either can be kept", async () => {
  const user = userEvent.setup();
  const stands = { id: "w", version: 3, name: "Wren", note: "old" };
  server.answers["GET /api/runners/w"] = stands;
  show(<EditRunner />, "/runners/w/edit", "/runners/:id/edit");
  const note = await screen.findByLabelText("Note");
  await user.clear(note);
  await user.type(note, "mine");
  server.answers["PUT /api/runners/w"] = {
    status: 412,
    detail: "changed",
    errors: [
      { location: "body", message: "what stands now", value: { ...stands, version: 4, note: "theirs" } },
    ],
  };
  await user.click(screen.getByText("Save"));
  expect((await screen.findByRole("alert")).textContent).toContain("Note: theirs");
  await user.click(screen.getByText("Keep mine, then save again"));
  server.answers["PUT /api/runners/w"] = { ...stands, version: 5, note: "mine" };
  await user.click(screen.getByText("Save"));
  await vi.waitFor(() => expect(address()).toBe("/runners/w"), { timeout: 60_000 });
  expect(server.asked.filter((a) => a.what === "PUT /api/runners/w").at(-1)?.body).toMatchObject({
    note: "mine",
  });
});
