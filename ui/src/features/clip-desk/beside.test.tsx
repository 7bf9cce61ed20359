// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { MemoryRouter, Route, Routes } from "react-router";
import { afterEach, expect, test, vi } from "vitest";
import { api, type Schema } from "../../api/client";
import { BesideView } from "./beside";
import type { Clip } from "./upload";

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const clip = (id: string, on: string, part: Partial<Clip> = {}): Clip => ({
  id,
  runnerId: "r",
  runnerName: "Dario",
  screeningId: "s",
  on,
  name: `${id}.webm`,
  size: 1,
  received: 1,
  part: 4,
  ready: true,
  kind: "video",
  thumb: false,
  markers: [],
  times: Array.from({ length: 200 }, (_, i) => i / 50),
  rev: 1,
  marks: {
    view: "side",
    picture: {},
    moments: [],
    events: [
      { frame: 10, foot: "right", kind: "contact" },
      { frame: 45, foot: "right", kind: "contact" },
    ],
  },
  runner: {},
  ...part,
});

const difference = (part: Partial<Schema["ClipDifference"]>): Schema["ClipDifference"] => ({
  measure: "cadence",
  name: "Cadence",
  unit: "spm",
  side: "both",
  older: 156,
  newer: 170.4,
  by: 14.4,
  within: 1.4,
  basis: "MDC95 from how well the points are placed",
  real: true,
  ...part,
});

function show(path: string, older: Clip, newer: Clip, differences: Schema["ClipDifference"][]) {
  vi.spyOn(api, "GET").mockImplementation((async (p: string) => ({
    data: p.endsWith("/beside/{other}")
      ? { older, newer, differences }
      : p.startsWith("/api/runners")
        ? { items: [newer, older] }
        : older,
    response: new Response(),
  })) as never);
  return render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
      <MemoryRouter initialEntries={[path]}>
        <Routes>
          <Route path="/clips/:id/beside/:other?" element={<BesideView />} />
        </Routes>
      </MemoryRouter>
    </QueryClientProvider>,
  );
}

test("a second clip is chosen, and each difference has its verdict", async () => {
  show("/clips/old/beside", clip("old", "2026-08-03"), clip("new", "2026-11-20"), [
    difference({}),
    difference({
      measure: "overstride",
      name: "Shin at contact",
      unit: "°",
      side: "left",
      by: -0.6,
      real: false,
      change: "no real change",
    }),
    difference({
      measure: "big-toe",
      name: "Big-toe extension",
      unit: "°",
      side: "right",
      by: 12,
      change: "better",
    }),
  ]);
  expect(await screen.findByText("Choose the second clip")).toBeTruthy();
  await userEvent.selectOptions(screen.getByRole("combobox"), "new");
  const rows = await screen.findAllByRole("row");
  expect(rows[0]?.textContent).toContain("3 Aug");
  expect(rows[1]?.textContent).toContain("+14 spm");
  expect(rows[1]?.textContent).toContain("changed");
  expect(rows[2]?.textContent).toContain("no real change");
  expect(rows[3]?.textContent).toContain("better");
  expect(rows[3]?.textContent).toContain("MDC95");
});

test("both clips go to the same event and on from it by one set of controls", async () => {
  show(
    "/clips/old/beside/new",
    clip("old", "2026-11-20"),
    clip("new", "2026-11-20", { times: Array.from({ length: 400 }, (_, i) => i / 100) }),
    [difference({})],
  );
  expect(await screen.findByText("at contact")).toBeTruthy();
  const captions = () => screen.getAllByRole("figure").map((f) => f.textContent);
  expect(captions()[0]).toContain("frame 11");
  expect(captions()[1]).toContain("frame 11");
  await userEvent.click(screen.getByRole("button", { name: "the next step" }));
  expect(screen.getByText(/^step/).textContent).toBe("step 2 of 2");
  expect(captions()[0]).toContain("frame 46");
  fireEvent.keyDown(window, { key: "ArrowRight" });
  expect(screen.getByRole("status").textContent).toBe("+20 ms");
  expect(captions()[0]).toContain("frame 47");
  expect(captions()[1], "the faster camera shows two frames more").toContain("frame 48");
  fireEvent.keyDown(window, { key: "Home" });
  expect(screen.getByRole("status").textContent).toBe("at contact");
  fireEvent.keyDown(window, { key: "PageUp" });
  expect(captions()[0]).toContain("frame 11");
  // On the same day the clips go by their names.
  expect(screen.getAllByRole("columnheader").map((h) => h.textContent)).toContain("old.webm");
  await userEvent.click(screen.getByLabelText("over each other"));
  expect(screen.getByLabelText(/How much of new.webm/)).toBeTruthy();
});

test("a clip without the event says which, and how to mark it", async () => {
  const bare = clip("new", "2026-11-20");
  bare.marks = { ...bare.marks, events: [] };
  show("/clips/old/beside/new", clip("old", "2026-08-03"), bare, []);
  const alert = await screen.findByRole("alert");
  expect(alert.textContent).toContain("new.webm has no right contact marked");
  expect(screen.getByRole("link", { name: "Mark it on the desk" }).getAttribute("href")).toBe("/clips/new");
  expect(screen.getByText("No measure in both clips")).toBeTruthy();
});

test("stills have no steps; they lie over each other", async () => {
  show(
    "/clips/old/beside/new",
    clip("old", "2026-08-03", { kind: "photo" }),
    clip("new", "2026-11-20", { kind: "photo" }),
    [],
  );
  expect(await screen.findByAltText("old.webm")).toBeTruthy();
  expect(screen.queryByText(/Locked to/)).toBeNull();
  await userEvent.click(screen.getByLabelText("over each other"));
  expect(document.querySelector("[data-over]")).toBeTruthy();
});
