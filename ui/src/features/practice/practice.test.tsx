// @vitest-environment jsdom
import { cleanup, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { client } from "../../api/hooks";
import { server, show, standIn } from "../testing";

vi.hoisted(() => {
  globalThis.fetch = (async (r: Request) => (await import("../testing")).standIn(r)) as typeof fetch;
});

const { PeopleView } = await import("./people");
const { OwnView } = await import("./own");
const { OwnQuestionsView } = await import("./questions");
const { ArchiveView } = await import("./archive");
const { Records } = await import("../runner/records");

const person = (id: string, name: string, role: string, more: object = {}) => ({
  id,
  name,
  role,
  since: "2026-01-01T00:00:00Z",
  runners: 0,
  ...more,
});
const me = (role: string) => ({
  id: "o",
  practiceId: "p",
  name: "Ora",
  email: "",
  role,
  practice: "P",
  today: "2026-05-04",
  zone: "UTC",
});
const staff = {
  people: [
    person("c", "Cid", "coach", { runners: 2, email: "c@example.test" }),
    person("d", "Dee", "viewer"),
    person("o", "Ora", "owner", { me: true }),
  ],
  invitations: [],
};

const mine = (more: object = {}) => ({
  name: "Ora",
  email: "ora@example.test",
  units: "",
  devices: [],
  second: false,
  codes: 0,
  keys: [],
  ...more,
});

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

test("a second device is set up by its first code, and recovery codes are shown once", async () => {
  server.answers["GET /api/me"] = mine();
  show(<OwnView />);
  as("coach");
  const user = userEvent.setup();
  const box = await screen.findByRole("region", { name: "Second device" });
  await user.click(within(box).getByRole("button", { name: "Set up a second device" }));
  server.answers["POST /api/me/second"] = { secret: "ABCDEFGHIJKLMNOP", uri: "otpauth://totp/x?secret=ABC" };
  await user.type(within(box).getByLabelText("Your password"), "harbour candle{Enter}");
  expect(await within(box).findByText("ABCD EFGH IJKL MNOP")).toBeTruthy();
  expect(await within(box).findByRole("img")).toBeTruthy();
  expect(asked("POST /api/me/second")[0]?.body).toEqual({ old: "harbour candle" });

  server.answers["PUT /api/me/second"] = {
    status: 422,
    errors: [{ location: "body.code", message: "the clock is about 7 minutes ahead" }],
  };
  await user.type(within(box).getByLabelText("Type the code it shows"), "111111{Enter}");
  expect(await within(box).findByText(/7 minutes ahead/)).toBeTruthy();
  const codes = Array.from({ length: 10 }, (_, i) => `AAAA${i}-BBBBB`);
  server.answers["PUT /api/me/second"] = { own: mine({ second: true, codes: 10 }), codes };
  await user.type(within(box).getByLabelText("Type the code it shows"), "2{Enter}");
  const shown = (await within(box).findByLabelText("Recovery codes", {
    selector: "textarea",
  })) as HTMLTextAreaElement;
  for (const c of codes) expect(shown.value).toContain(c);
  await user.click(within(box).getByRole("button", { name: "I have them" }));
  expect(within(box).queryByText(/AAAA0/)).toBeNull();
  expect(within(box).getByText(/10 recovery codes are left/)).toBeTruthy();
});

test("a key for a program is made, shown once and taken back; a viewer's only looks", async () => {
  const key = {
    id: "k1",
    name: "Club table",
    scope: "read",
    at: "2026-05-01T08:00:00Z",
    until: "2026-08-01T08:00:00Z",
  };
  server.answers["GET /api/me"] = mine();
  show(<OwnView />);
  as("viewer");
  const user = userEvent.setup();
  const box = await screen.findByRole("region", { name: "Programs" });
  await user.click(within(box).getByRole("button", { name: "Make a key" }));
  expect(within(box).queryByText("works as a coach")).toBeNull();
  await user.click(within(box).getByRole("button", { name: "Make the key" }));
  expect(await within(box).findByText("Say which program it is for")).toBeTruthy();
  await user.type(within(box).getByLabelText("Which program it is for"), "Club table");
  await user.selectOptions(within(box).getByLabelText("Holds for"), "30");
  server.answers["POST /api/me/keys"] = { key: "notchback-key-XYZ", own: mine({ keys: [key] }) };
  await user.type(within(box).getByLabelText("Your password"), "harbour candle{Enter}");
  expect(((await within(box).findByLabelText("The key")) as HTMLInputElement).value).toBe(
    "notchback-key-XYZ",
  );
  expect(asked("POST /api/me/keys")[0]?.body).toEqual({
    name: "Club table",
    scope: "read",
    days: 30,
    old: "harbour candle",
  });
  await user.click(within(box).getByRole("button", { name: "Done" }));
  expect(within(box).queryByLabelText("The key")).toBeNull();
  server.answers["DELETE /api/me/keys/k1"] = mine();
  await user.click(within(box).getByRole("button", { name: "Take back the key for Club table" }));
  await waitFor(() => expect(within(box).queryByText("Club table")).toBeNull());
});

test("an owner sees how somebody comes in and closes each way, the device in two steps", async () => {
  const cid = person("c", "Cid", "coach", {
    second: true,
    keys: [
      { id: "k1", name: "Table", scope: "write", at: "2026-05-01T08:00:00Z", until: "2026-08-01T08:00:00Z" },
    ],
  });
  const open = { people: [cid, person("o", "Ora", "owner", { me: true })], invitations: [] };
  server.answers = { "GET /api/staff": open };
  show(<PeopleView />);
  as("owner");
  const user = userEvent.setup();
  await user.click(await screen.findByText(/How Cid comes in/));
  await user.click(screen.getByRole("button", { name: "Take it off" }));
  expect(asked("DELETE /api/staff/c/second")).toHaveLength(0);
  server.answers["DELETE /api/staff/c/second"] = {
    ...open,
    people: [{ ...cid, second: false }, open.people[1]],
  };
  await user.click(screen.getByRole("button", { name: "Take it off and sign out" }));
  await waitFor(() => expect(screen.queryByText("With a second device")).toBeNull());
  server.answers["DELETE /api/staff/c/keys/k1"] = staff;
  await user.click(screen.getByRole("button", { name: "Take back the key for Table" }));
  await waitFor(() => expect(screen.queryByText(/How Cid comes in/)).toBeNull());
});
