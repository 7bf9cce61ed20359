// @vitest-environment jsdom
import { QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { MemoryRouter, Route, Routes } from "react-router";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { client } from "../api/hooks";
import { draftsOf, getDraft, putDraft } from "../parts/drafts";
import { KeysProvider } from "../parts/keys";

// The client takes fetch as it is when it is made.
const asked = vi.hoisted(() => {
  const list: string[] = [];
  globalThis.fetch = async (r) => {
    const { method, url } = r as Request;
    list.push(`${method} ${new URL(url).pathname}`);
    return new Response("{}", { headers: { "Content-Type": "application/json" } });
  };
  return list;
});

vi.mock("react-router", async (real) => ({
  ...(await real<typeof import("react-router")>()),
  ScrollRestoration: () => null,
}));

const { Shell } = await import("./shell");

beforeEach(() => {
  localStorage.clear();
  localStorage.setItem("guide", "-1");
  asked.length = 0;
  vi.stubGlobal("matchMedia", () => ({ matches: false }));
  client.setQueryData(["me"], {
    id: "u",
    practiceId: "p",
    name: "Ada",
    email: "",
    role: "owner",
    practice: "P",
    today: "2026-05-04",
  });
  draftsOf("p", "u");
});
afterEach(cleanup);

const show = () =>
  render(
    <QueryClientProvider client={client}>
      <MemoryRouter>
        <KeysProvider>
          <Routes>
            <Route path="*" element={<Shell />} />
          </Routes>
        </KeysProvider>
      </MemoryRouter>
    </QueryClientProvider>,
  );

test("signing out says what is not sent, and removes it only when told to", async () => {
  putDraft("talk:s", { complaints: [] });
  show();
  fireEvent.click(screen.getByRole("button", { name: "Sign out" }));
  expect(screen.getByRole("alertdialog").textContent).toContain("One form is not sent yet");
  expect(document.activeElement?.textContent).toBe("Stay");
  fireEvent.click(screen.getByRole("button", { name: "Stay" }));
  expect(screen.queryByRole("alertdialog")).toBeNull();
  expect(getDraft("talk:s")).toBeTruthy();
  expect(asked).not.toContain("DELETE /api/session");
  fireEvent.click(screen.getByRole("button", { name: "Sign out" }));
  fireEvent.click(screen.getByRole("button", { name: "Sign out and remove" }));
  await waitFor(() => expect(asked).toContain("DELETE /api/session"));
  await waitFor(() =>
    expect(Object.keys(localStorage).filter((k) => k.startsWith("draft:"))).toHaveLength(0),
  );
});

test("with nothing waiting it just signs out", async () => {
  show();
  fireEvent.click(screen.getByRole("button", { name: "Sign out" }));
  await waitFor(() => expect(asked).toContain("DELETE /api/session"));
  expect(screen.queryByRole("alertdialog")).toBeNull();
});
