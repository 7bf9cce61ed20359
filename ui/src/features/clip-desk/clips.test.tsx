// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { MemoryRouter, Route, Routes } from "react-router";
import { afterEach, expect, test, vi } from "vitest";
import { api } from "../../api/client";
import { ClipsView } from "./clips";
import type { Clip } from "./upload";
import * as upload from "./upload";

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

const clip = (id: string, part: Partial<Clip> = {}): Clip => ({
  id,
  runnerId: "r",
  runnerName: "Dario",
  screeningId: "s",
  on: "2026-11-20",
  name: `${id}.webm`,
  size: 3 * 2 ** 20,
  received: 3 * 2 ** 20,
  part: 4,
  ready: true,
  kind: "video",
  thumb: true,
  markers: [],
  times: [0, 0.02, 0.04],
  rev: 1,
  marks: { view: "side", picture: {}, moments: [], events: [] },
  runner: {},
  ...part,
});

function show(list: Clip[]) {
  const gone: string[] = [];
  const finished: string[] = [];
  vi.spyOn(api, "GET").mockImplementation((async (path: string) => ({
    data: path.endsWith("/clips")
      ? { items: list }
      : { id: "s", runnerId: "r", runnerName: "Dario", on: "2026-11-20" },
    response: new Response(),
  })) as never);
  vi.spyOn(api, "DELETE").mockImplementation((async (_: string, o: { params: { path: { id: string } } }) => {
    gone.push(o.params.path.id);
    return { data: { deleted: true }, response: new Response() };
  }) as never);
  vi.spyOn(api, "POST").mockImplementation((async (_: string, o: { params: { path: { id: string } } }) => {
    finished.push(o.params.path.id);
    return { data: clip(o.params.path.id), response: new Response() };
  }) as never);
  render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
      <MemoryRouter initialEntries={["/screenings/s/clips"]}>
        <Routes>
          <Route path="/screenings/:id/clips" element={<ClipsView />} />
        </Routes>
      </MemoryRouter>
    </QueryClientProvider>,
  );
  return { gone, finished };
}

const row = async (name: string) => (await screen.findByText(name)).closest("li") as HTMLElement;

test("each clip says what it is or how far it is on its way", async () => {
  show([
    clip("easy"),
    clip("old", { converted: true }),
    clip("lab", { kind: "markers", thumb: false, markers: ["a"], rate: 240, frames: 960, times: [] }),
    clip("half", { ready: false, thumb: false, received: 2 ** 20 }),
    clip("tower", { ready: false, thumb: false, turning: { share: 0.4 } }),
    clip("broken", { ready: false, thumb: false, turning: { share: 0, error: "it is damaged" } }),
  ]);
  expect((await row("easy.webm")).textContent).toContain("video, 3 frames, 3.0 MiB");
  expect((await row("easy.webm")).querySelector("img")?.getAttribute("src")).toBe("/api/clips/easy/thumb");
  expect((await row("old.webm")).textContent).toContain("turned into MP4");
  expect((await row("lab.webm")).textContent).toContain("960 frames at 240 Hz");
  expect((await row("half.webm")).textContent).toContain(
    "not whole: 1.0 MiB of 3.0 MiB are here; bring the same file in again and it goes on",
  );
  const bar = within(await row("tower.webm")).getByRole<HTMLProgressElement>("progressbar");
  expect(bar.value).toBeCloseTo(0.4);
  expect((await row("broken.webm")).textContent).toContain("▲ it is damaged");
  expect(within(await row("tower.webm")).queryByRole("link"), "what is not there can't be opened").toBeNull();
  const beside = within(await row("easy.webm")).getByRole("link", { name: "easy.webm beside another" });
  expect(beside.getAttribute("href")).toBe("/clips/easy/beside");
});

test("a whole upload that nobody looked at can be gone on with", async () => {
  const { finished } = show([clip("left", { ready: false, thumb: false })]);
  await userEvent.click(within(await row("left.webm")).getByRole("button", { name: "Go on" }));
  expect(finished).toEqual(["left"]);
});

test("deleting asks once more and can be let be", async () => {
  const { gone } = show([clip("easy")]);
  await userEvent.click(await screen.findByRole("button", { name: "Delete easy.webm" }));
  await userEvent.click(screen.getByRole("button", { name: "Keep it" }));
  expect(gone).toEqual([]);
  await userEvent.click(screen.getByRole("button", { name: "Delete easy.webm" }));
  await userEvent.click(screen.getByRole("button", { name: "Delete" }));
  expect(gone).toEqual(["easy"]);
});

test("files come in by choice or by drop, one after the other, each with what became of it", async () => {
  const seen: string[] = [];
  vi.spyOn(upload, "bringIn").mockImplementation(async (_, file, progress) => {
    seen.push(file.name);
    progress(0.5);
    if (file.name === "bad.txt") throw new Error("this is no clip");
    return clip("x", { ready: file.name !== "old.avi" });
  });
  show([]);
  expect(await screen.findByText("No clip yet")).toBeTruthy();
  const file = (name: string, type = "application/octet-stream") => new File(["x"], name, { type });
  await userEvent.upload(
    screen.getByLabelText("Choose clips or photos"),
    [file("a.png"), file("bad.txt"), file("old.avi")],
    {
      applyAccept: false,
    },
  );
  const became = screen.getByRole("list", { name: "What became of each" });
  await waitFor(() =>
    expect(within(became).getAllByRole("listitem")[2]?.textContent).toContain("being turned"),
  );
  expect(seen).toEqual(["a.png", "bad.txt", "old.avi"]);
  expect(within(became).getAllByRole("listitem")[0]?.textContent).toContain("taken in");
  expect(within(became).getAllByRole("listitem")[1]?.textContent).toContain("▲ this is no clip");
  fireEvent.drop(screen.getByRole("region", { name: "Bring in" }), {
    dataTransfer: { files: [file("b.png")] },
  });
  await waitFor(() => expect(seen.at(-1)).toBe("b.png"));
  // A tablet's camera opens from its own buttons.
  expect(screen.getByLabelText("Film now").getAttribute("capture")).toBe("environment");
  expect(screen.getByLabelText("Photograph now").getAttribute("accept")).toBe("image/*");
});

test("a clip of hours is refused before it is sent", async () => {
  const bring = vi.spyOn(upload, "bringIn").mockResolvedValue(clip("x"));
  vi.stubGlobal("URL", Object.assign(URL, { createObjectURL: () => "blob:x", revokeObjectURL: () => {} }));
  const make = document.createElement.bind(document);
  let seconds = 36_000;
  vi.spyOn(document, "createElement").mockImplementation(((tag: string) => {
    const e = make(tag);
    if (tag === "video") {
      Object.defineProperty(e, "duration", { get: () => seconds });
      Object.defineProperty(e, "src", { set: () => setTimeout(() => e.onloadedmetadata?.(new Event("x"))) });
    }
    return e;
  }) as never);
  show([]);
  const pick = await screen.findByLabelText("Choose clips or photos");
  await userEvent.upload(pick, new File(["x"], "day.mp4", { type: "video/mp4" }));
  expect(await screen.findByText(/a clip of hours/)).toBeTruthy();
  expect(bring).not.toHaveBeenCalled();
  seconds = 12;
  await userEvent.upload(pick, new File(["x"], "short.mp4", { type: "video/mp4" }));
  await waitFor(() => expect(bring).toHaveBeenCalledOnce());
});
