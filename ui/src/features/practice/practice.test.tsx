// @vitest-environment jsdom
import { cleanup, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { client } from "../../api/hooks";
import { server, show, standIn } from "../testing";
import { me, mine, person } from "./madeup";

vi.hoisted(() => {
  globalThis.fetch = (async (r: Request) => (await import("../testing")).standIn(r)) as typeof fetch;
});

const { PeopleView } = await import("./people");
const { OwnView } = await import("./own");
const { OwnQuestionsView } = await import("./questions");
const { ArchiveView } = await import("./archive");
const { Records } = await import("../runner/records");

const staff = {
  people: [
    person("c", "Cid", "coach", { runners: 2, email: "c@example.test" }),
    person("d", "Dee", "viewer"),
    person("o", "Ora", "owner", { me: true }),
  ],
  invitations: [],
};

beforeEach(() => {
  server.asked.length = 0;
  server.answers = { "GET /api/staff": staff };
  vi.stubGlobal("fetch", standIn);
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

function as(role: string) {
  client.setQueryData(["me"], me(role));
}
const asked = (what: string) => server.asked.filter((a) => a.what === what);

test("an owner changes a role, hands runners over and gives a link that is shown once", async () => {
  show(<PeopleView />);
  as("owner");
  const user = userEvent.setup();
  const role = await screen.findByLabelText("What Cid may do");
  server.answers["PUT /api/staff/c/role"] = staff;
  await user.selectOptions(role, "viewer");
  await waitFor(() => expect(asked("PUT /api/staff/c/role")[0]?.body).toEqual({ role: "viewer" }));

  const row = screen.getByText("Cid").closest("li") as HTMLElement;
  await user.click(within(row).getByRole("button", { name: "Remove" }));
  expect(asked("DELETE /api/staff/c")).toHaveLength(0);
  const to = within(row).getByLabelText("Who looks after their 2 runners");
  expect([...(to as HTMLSelectElement).options].map((o) => o.text)).toEqual(["nobody in particular", "Ora"]);
  await user.selectOptions(to, "o");
  server.answers["DELETE /api/staff/c"] = { people: [staff.people[2]], invitations: [] };
  await user.click(within(row).getByRole("button", { name: "Remove Cid" }));
  await waitFor(() => expect(screen.queryByText("Cid")).toBeNull());
  expect(asked("DELETE /api/staff/c")[0]?.search).toBe("?to=o");

  server.answers["POST /api/staff/invitations"] = { token: "ABC", until: "2026-05-11T00:00:00Z" };
  await user.type(screen.getByLabelText("For whom"), "Ada");
  await user.click(screen.getByRole("button", { name: "Make a link" }));
  expect(((await screen.findByRole("textbox", { name: "The link" })) as HTMLInputElement).value).toMatch(
    /\/join#ABC$/,
  );
  await user.click(screen.getByRole("button", { name: "Done" }));
  expect(screen.queryByRole("textbox", { name: "The link" })).toBeNull();
});

test("a coach sees who is here and changes nothing", async () => {
  show(<PeopleView />);
  as("coach");
  await screen.findByText("Cid");
  expect(screen.queryByLabelText("What Cid may do")).toBeNull();
  expect(screen.queryByRole("button", { name: "Make a link" })).toBeNull();
});

test("what the last owner may not do is said", async () => {
  show(<PeopleView />);
  as("owner");
  server.answers["PUT /api/staff/o/role"] = { status: 409, detail: "the practice needs an owner" };
  await userEvent.selectOptions(await screen.findByLabelText("What Ora may do"), "coach");
  expect((await screen.findByRole("alert")).textContent).toContain("needs an owner");
});

test("a password the server refuses is said beside its field; devices end one by one", async () => {
  server.answers["GET /api/me"] = mine({
    devices: [
      {
        id: "1",
        name: "Firefox on Linux",
        at: "2026-05-01T00:00:00Z",
        seen: "2026-05-04T00:00:00Z",
        here: true,
      },
      { id: "2", name: "Safari on a phone", at: "2026-05-01T00:00:00Z", seen: "2026-05-03T00:00:00Z" },
    ],
  });
  show(<OwnView />);
  const user = userEvent.setup();
  await user.type(await screen.findByLabelText("Present password"), "old");
  await user.type(screen.getByLabelText("New password"), "password12");
  server.answers["PUT /api/me/password"] = {
    status: 422,
    detail: "",
    errors: [{ location: "body.password", message: "one of the first that are guessed" }],
  };
  await user.click(screen.getByRole("button", { name: "Change the password" }));
  await screen.findByText(/first that are guessed/);
  server.answers["DELETE /api/me/devices"] = mine();
  await user.click(screen.getByRole("button", { name: "Sign out on Safari on a phone" }));
  await waitFor(() => expect(asked("DELETE /api/me/devices")[0]?.search).toBe("?device=2"));
});

test("whose records go soon is said, and another year is one press away", async () => {
  server.answers["GET /api/archive"] = {
    items: [
      { id: "a", name: "Ada", since: "2020-01-01", goes: "2026-05-20", soon: true },
      { id: "b", name: "Bo", since: "2026-01-01" },
    ],
  };
  server.answers["POST /api/runners/a/keep"] = { items: [] };
  show(<ArchiveView />);
  as("coach");
  await screen.findByText(/All records are deleted on/);
  await userEvent.click(await screen.findByRole("button", { name: "Keep another year" }));
  await screen.findByText("Nobody");
});

test("a runner is deleted in two steps, by name and reason, by owners only", async () => {
  server.answers["GET /api/runners/r/consents"] = { items: [] };
  server.answers["GET /api/runners/r/bar"] = {};
  server.answers["GET /api/runners/r/footprint"] = {
    name: "Ada Penn",
    screenings: 2,
    blocks: 1,
    sessions: 9,
    runs: 4,
    clips: 0,
    phones: 0,
    journal: 30,
  };
  server.answers["POST /api/runners/r/deletion"] = {};
  show(<Records id="r" />);
  as("coach");
  await screen.findByText("Nothing written down yet.");
  expect(screen.queryByRole("button", { name: /Delete everything/ })).toBeNull();
  as("owner");
  const user = userEvent.setup();
  await user.click(await screen.findByRole("button", { name: /Delete everything/ }));
  await screen.findByText(/30 lines of the journal/);
  const go = screen.getByRole("button", { name: "Delete for good" }) as HTMLButtonElement;
  await user.type(screen.getByLabelText("Type the name: Ada Penn"), "ada penn");
  expect(go.disabled).toBe(true);
  await user.selectOptions(screen.getByLabelText("Why"), "left");
  expect(go.disabled).toBe(false);
  await user.click(go);
  await waitFor(() =>
    expect(asked("POST /api/runners/r/deletion")[0]?.body).toEqual({ name: "ada penn", why: "left" }),
  );
});

test("a safety question is looked at once more before it stays for good", async () => {
  const q = {
    id: "own-a",
    text: "Stung at the beach",
    level: "refer",
    closes: ["running"],
    by: "Ora",
    at: "2026-05-01T08:00:00Z",
  };
  server.answers["GET /api/practice/questions"] = { items: [], closes: ["running", "barefoot", "cooling"] };
  server.answers["POST /api/practice/questions"] = { items: [q], closes: ["running", "barefoot", "cooling"] };
  show(<OwnQuestionsView />);
  as("owner");
  const user = userEvent.setup();
  await user.type(await screen.findByRole("textbox", { name: /What is asked/ }), "Stung at the beach");
  await user.click(screen.getByRole("button", { name: "Look at it once more" }));
  expect(await screen.findByText(/Choose what a yes closes/)).toBeTruthy();
  await user.click(screen.getByRole("checkbox", { name: "running" }));
  await user.click(screen.getByRole("checkbox", { name: "ask which side" }));
  await user.click(screen.getByRole("button", { name: "Look at it once more" }));
  expect(asked("POST /api/practice/questions")).toHaveLength(0);
  expect(await screen.findByText(/closes running; asks which side/)).toBeTruthy();
  await user.click(screen.getByRole("button", { name: "Add for good" }));
  await waitFor(() => expect(asked("POST /api/practice/questions")).toHaveLength(1));
  expect(asked("POST /api/practice/questions")[0]?.body).toMatchObject({
    level: "refer",
    closes: ["running"],
    side: true,
    progress: false,
  });
  expect(await screen.findByText("Stung at the beach")).toBeTruthy();
  cleanup();
  show(<OwnQuestionsView />);
  as("coach");
  expect(await screen.findByText(/Only the owner adds one/)).toBeTruthy();
  expect(screen.queryByRole("textbox")).toBeNull();
});
