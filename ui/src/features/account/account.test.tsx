import { cleanup, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, expect, test, vi } from "vitest";

vi.hoisted(() => {
  globalThis.fetch = async (r) => (await import("../testing")).standIn(r);
});
const { server, show } = await import("../testing");
const { client } = await import("../../api/hooks");
const { Door } = await import("./account");

beforeEach(() => {
  server.asked.length = 0;
  vi.stubGlobal("matchMedia", () => ({ matches: false }));
});
afterEach(cleanup);

test("signing in asks for both, says what was wrong, and keeps the address typed", async () => {
  const user = userEvent.setup();
  server.answers = {
    "GET /api/start": { empty: false },
    "GET /api/session": { me: { id: "u", practiceId: "p", name: "Ada" } },
    "POST /api/session": { status: 401, detail: "wrong e-mail or password" },
  };
  show(<Door />);
  const button = await screen.findByRole("button", { name: "Sign in" });
  await user.click(button);
  expect(await screen.findByText("Type your password")).toBeTruthy();
  expect(screen.getByLabelText("E-mail").getAttribute("aria-invalid")).toBe("true");
  expect(server.asked.some((a) => a.what === "POST /api/session")).toBe(false);
  await user.type(screen.getByLabelText("E-mail"), "ada@example.test");
  await user.type(screen.getByLabelText("Password"), "secret");
  await user.click(button);
  expect((await screen.findByRole("alert")).textContent).toContain("wrong e-mail or password");
  expect((screen.getByLabelText("E-mail") as HTMLInputElement).value).toBe("ada@example.test");
  server.answers["POST /api/session"] = { id: "u", practiceId: "p", name: "Ada" };
  await user.click(button);
  await vi.waitFor(() => expect(client.getQueryData(["me"])).toMatchObject({ name: "Ada" }), {
    timeout: 60_000,
  });
});

test("a code is asked for where there is a second device, and what is wrong with it stands beside it", async () => {
  client.clear();
  const user = userEvent.setup();
  const no = (message: string) => ({ status: 422, errors: [{ location: "body.code", message }] });
  server.answers = {
    "GET /api/start": { empty: false },
    "GET /api/session": { me: { id: "u", practiceId: "p", name: "Ada" } },
    "POST /api/session": no("type the code your second device shows now"),
  };
  show(<Door />);
  await user.type(await screen.findByLabelText("E-mail"), "ada@example.test");
  await user.type(screen.getByLabelText("Password"), "secret{Enter}");
  const code = await screen.findByLabelText("Code of your second device");
  expect(code.getAttribute("aria-invalid")).toBe("false");
  expect(screen.queryByRole("alert")).toBeNull();
  server.answers["POST /api/session"] = no("this code doesn't fit");
  await user.type(code, "123456{Enter}");
  expect(await screen.findByText(/doesn't fit/)).toBeTruthy();
  server.answers["POST /api/session"] = { id: "u", practiceId: "p", name: "Ada" };
  await user.type(code, "7{Enter}");
  await vi.waitFor(() => expect(client.getQueryData(["me"])).toMatchObject({ name: "Ada" }), {
    timeout: 60_000,
  });
  expect(server.asked.filter((a) => a.what === "POST /api/session").map((a) => a.body)).toEqual([
    { email: "ada@example.test", password: "secret" },
    { email: "ada@example.test", password: "secret", code: "123456" },
    { email: "ada@example.test", password: "secret", code: "1234567" },
  ]);
});

test("an empty installation asks for its practice, and what can't be stands beside its field", async () => {
  const user = userEvent.setup();
  server.answers = {
    "GET /api/start": { empty: true },
    "POST /api/first-run": {
      status: 422,
      errors: [{ location: "body.password", message: "too easy to guess" }],
    },
  };
  show(<Door />);
  await user.type(await screen.findByLabelText("Practice"), "Headland");
  await user.type(screen.getByLabelText("Password"), "password");
  await user.click(screen.getByText("Create the practice"));
  expect(await screen.findByText(/too easy to guess/)).toBeTruthy();
  expect(screen.getByLabelText("Password").getAttribute("aria-invalid")).toBe("true");
  expect(server.asked.at(-1)?.body).toMatchObject({ practice: "Headland", password: "password" });
});
