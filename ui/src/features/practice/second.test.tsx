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

beforeEach(() => {
  server.asked.length = 0;
  server.answers = {};
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
  server.answers["DELETE /api/staff/c/keys/k1"] = {
    people: [{ ...cid, second: false, keys: [] }, open.people[1]],
    invitations: [],
  };
  await user.click(screen.getByRole("button", { name: "Take back the key for Table" }));
  await waitFor(() => expect(screen.queryByText(/How Cid comes in/)).toBeNull());
});
