// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import type { ReactNode } from "react";
import { MemoryRouter } from "react-router";
import { afterEach, expect, test, vi } from "vitest";
import { api, type Schema } from "../../api/client";
import { LookThrough } from "./lookthrough";
import { MarkersDesk, mended } from "./markers";
import type { Marks } from "./marks";
import { Propose } from "./proposals";
import { CantPropose, follow, missing, propose } from "./propose";
import type { Read } from "./proposed";
import { accept, fixed, lookedAt, proposedLines, proposedMarks, stepAt, unfixed } from "./proposed";
import { ProposedMeasures } from "./proposedmeasures";
import { digits, isIn } from "./readings";
import type { Clip } from "./upload";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

type Asked = { params: { path: Record<string, unknown> }; body: unknown };

/** Answers in place of the server. */
function answer(method: "GET" | "PUT" | "POST", fn: (path: string, o: Asked) => unknown) {
  vi.spyOn(api, method).mockImplementation(((path: string, o: Asked) =>
    Promise.resolve({ data: fn(path, o), response: new Response() })) as never);
}

const marks = (part: Partial<Marks> = {}): Marks => ({
  view: "side",
  picture: {},
  moments: [],
  events: [],
  ...part,
});

const event = (frame: number, foot: "left" | "right", kind: "contact" | "toe-off") => ({
  frame,
  foot,
  kind,
  at: frame / 60,
  margin: 0.02,
});

/** Twelve points in a row, as a proposal has them. */
const row = (x: number) => Array.from({ length: 12 }, (_, k) => [x + k, 100 + k, 0.9]).flat();

const read = (part: Partial<Read> = {}): Read => ({
  from: 0,
  found: 90,
  frames: 100,
  filled: 0,
  swapped: 0,
  quality: [],
  events: [
    event(10, "left", "contact"),
    event(25, "left", "toe-off"),
    event(31, "right", "contact"),
    event(46, "right", "toe-off"),
    event(52, "left", "contact"),
  ],
  readings: [],
  perStep: [],
  times: [],
  says: [],
  points: { 12: row(200) },
  look: [40, 12],
  asks: [
    { frame: 10, foot: "left", what: "contact", done: true },
    { frame: 15, foot: "left", what: "flat", done: false },
  ],
  ...part,
});

const clip = (part: Partial<Clip> = {}): Clip => ({
  id: "c1",
  runnerId: "r1",
  runnerName: "Dario",
  screeningId: "s1",
  on: "2026-11-20",
  name: "easy.webm",
  size: 10,
  received: 10,
  part: 4,
  ready: true,
  kind: "video",
  thumb: false,
  markers: [],
  times: Array.from({ length: 100 }, (_, i) => i / 60),
  rev: 0,
  marks: marks(),
  runner: {},
  ...part,
});

const within_ = (ui: ReactNode) =>
  render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
      <MemoryRouter>{ui}</MemoryRouter>
    </QueryClientProvider>,
  );

test("proposed points are hollow until they are put right or looked at", () => {
  const plain = proposedMarks(read(), marks(), 12);
  expect(plain).toHaveLength(12);
  expect(plain.every((m) => m.hollow)).toBe(true);
  expect(plain[0]).toMatchObject({ id: "pose/left/shoulder", at: { x: 200, y: 100 }, side: "left" });
  expect(plain[11]?.id).toBe("pose/right/toe");
  const put = fixed(marks(), 12, "right", "toe", { x: 5, y: 6 });
  const after = proposedMarks(read(), put, 12);
  expect(after[11]).toMatchObject({ at: { x: 5, y: 6 }, hollow: false });
  expect(after[10]?.hollow).toBe(true);
  expect(proposedMarks(read(), marks({ accepted: [{ from: 10, to: 12 }] }), 12).some((m) => m.hollow)).toBe(
    false,
  );
  expect(proposedMarks(read(), marks(), 13)).toEqual([]);
  expect(proposedMarks(undefined, marks(), 12)).toEqual([]);
});

test("a point that is put right twice has one place, and can be let go again", () => {
  const once = fixed(marks(), 12, "left", "knee", { x: 1, y: 1 });
  const twice = fixed(once, 12, "left", "knee", { x: 2, y: 2 });
  expect(twice.fixes).toEqual([{ frame: 12, foot: "left", place: "knee", at: { x: 2, y: 2 } }]);
  const other = fixed(twice, 13, "left", "knee", { x: 3, y: 3 });
  expect(unfixed(other, 12, "left", "knee").fixes).toEqual([
    { frame: 13, foot: "left", place: "knee", at: { x: 3, y: 3 } },
  ]);
  expect(once.fixes).toHaveLength(1); // nothing is changed in place: undo needs the old ones
});

test("lines join the points of each leg in its own hue", () => {
  const lines = proposedLines(proposedMarks(read(), marks(), 12));
  expect(lines).toHaveLength(12);
  expect(lines.filter((l) => l.side === "left")).toHaveLength(6);
  expect(proposedLines([])).toEqual([]);
});

test("a step is found by any frame of its time on the ground", () => {
  expect(stepAt(read(), 9)).toEqual({ foot: "left", from: 9, to: 26 });
  expect(stepAt(read(), 26)?.foot).toBe("left");
  expect(stepAt(read(), 28)).toBeUndefined();
  expect(stepAt(read(), 40)).toEqual({ foot: "right", from: 30, to: 47 });
  expect(stepAt(read(), 60), "without a toe-off there is no step").toBeUndefined();
});

test("accepting a stretch takes its events over and leaves the others", () => {
  const m = marks({
    events: [
      { frame: 3, foot: "right", kind: "toe-off" },
      { frame: 12, foot: "left", kind: "contact" },
    ],
  });
  const after = accept(m, read(), 9, 26);
  expect(after.events).toEqual([
    { frame: 3, foot: "right", kind: "toe-off" },
    { frame: 10, foot: "left", kind: "contact" },
    { frame: 25, foot: "left", kind: "toe-off" },
  ]);
  expect(after.accepted).toEqual([{ from: 9, to: 26 }]);
  expect(lookedAt(after, 20)).toBe(true);
  expect(lookedAt(after, 27)).toBe(false);
});

test("the box stays while the body is in its middle, and follows when it leaves", () => {
  const body = (x: number, y: number, tall: number) => [x, y, 1, x + 40, y + tall, 1];
  const box = { x: 140, y: 0, size: 360 };
  const tall = 230;
  const calm = body(300, 78, tall);
  expect(follow(box, calm, 640, 360)).toBe(box);
  const gone = follow(box, body(420, 78, tall), 640, 360);
  expect(gone.x).toBeGreaterThan(box.x + 60);
  const middle = gone.x + gone.size / 2;
  expect(Math.abs(middle - 440)).toBeLessThan(2);
  const near = follow(box, body(300, 20, 330), 640, 360);
  expect(near.size).toBeGreaterThan(box.size);
  expect(near.size).toBeLessThanOrEqual(640);
});

test("a browser without WebGL is told so, and nothing is loaded", async () => {
  vi.spyOn(HTMLCanvasElement.prototype, "getContext").mockReturnValue(null);
  expect(missing()).toContain("no WebGL");
  await expect(
    propose(clip(), { from: 0, to: 3 }, null, () => {}, new AbortController().signal),
  ).rejects.toBeInstanceOf(CantPropose);
  expect(document.querySelector("script[src*='pose']")).toBeNull();
  within_(
    <Propose
      clip={clip()}
      frame={0}
      count={100}
      box={null}
      boxing={false}
      setBoxing={() => {}}
      clearBox={() => {}}
    />,
  );
  await userEvent.click(screen.getByRole("button", { name: "Propose points" }));
  expect((await screen.findByRole("alert")).textContent).toContain("Mark by hand");
  expect(screen.getByRole("button", { name: "Propose points" })).toBeTruthy();
});

test("a box is asked for by two clicks, and can be taken away", async () => {
  const setBoxing = vi.fn();
  const clearBox = vi.fn();
  within_(
    <Propose
      clip={clip({ proposedAt: "2026-11-20T10:00:00Z" })}
      frame={0}
      count={100}
      box={{ x: 0, y: 0, size: 9 }}
      boxing={false}
      setBoxing={setBoxing}
      clearBox={clearBox}
    />,
  );
  expect(screen.getByRole("button", { name: "Propose again" })).toBeTruthy();
  await userEvent.click(screen.getByRole("button", { name: /box round the runner/ }));
  expect(setBoxing).toHaveBeenCalledWith(true);
  await userEvent.click(screen.getByRole("button", { name: "no box" }));
  expect(clearBox).toHaveBeenCalled();
});

test("the queue goes to its frames; a step and all of it can be said to be right", async () => {
  const go = vi.fn();
  const set = vi.fn();
  const setAsk = vi.fn();
  const take = vi.fn();
  const show = (frame: number, m = marks()) =>
    within_(
      <LookThrough
        read={read()}
        m={m}
        frame={frame}
        go={go}
        set={set}
        ask={false}
        setAsk={setAsk}
        take={take}
      />,
    );
  show(12);
  await userEvent.click(screen.getByRole("button", { name: "frame 41" }));
  expect(go).toHaveBeenCalledWith(40);
  await userEvent.click(screen.getByRole("button", { name: "This step is right" }));
  expect(set.mock.calls[0]?.[0].accepted).toEqual([{ from: 9, to: 26 }]);
  await userEvent.click(screen.getByRole("button", { name: "All is right" }));
  expect(set.mock.calls[1]?.[0].events).toHaveLength(5);
  await userEvent.click(screen.getByRole("button", { name: "Place heel and toe" }));
  expect(go).toHaveBeenLastCalledWith(15);
  expect(setAsk).toHaveBeenCalledWith(true);
  expect(screen.getByText(/heel and toe in 2 frames/).textContent).toContain("1 done");
  await userEvent.click(screen.getByRole("button", { name: /take this frame/ }));
  expect(take).toHaveBeenCalled();
  cleanup();
  show(28);
  expect(screen.getByRole<HTMLButtonElement>("button", { name: "This step is right" }).disabled).toBe(true);
});

const judged = (part: Partial<Schema["ClipJudged"]>): Schema["ClipJudged"] => ({
  measure: "overstride",
  name: "Shin at contact",
  unit: "°",
  value: 12.34,
  margin: 4,
  shortPx: 0,
  side: "left",
  test: "overstride",
  source: { kind: "house", ref: "", note: "" } as unknown as Schema["ClipJudged"]["source"],
  ...part,
});

test("one confirmation puts all that is sure enough into the screening, with where it comes from", async () => {
  const calls: { path: string; body: unknown }[] = [];
  const s = { finished: false, trials: [] as unknown[] };
  answer("GET", (path) => (path === "/api/screenings/{id}" ? s : { items: [] }));
  answer("PUT", (path, o) => {
    calls.push({ path, body: o.body });
    const { test, side, slot } = o.params.path;
    return { ...s, trials: [...s.trials, { test, side, slot, value: (o.body as { value: number }).value }] };
  });
  const origins: string[] = [];
  vi.stubGlobal("fetch", async (url: string) => {
    origins.push(url);
    return Response.json({ items: [] });
  });
  const list = [
    judged({ by: "proposed" }),
    judged({ side: "right", by: "corrected", value: 3, margin: 2 }),
    judged({
      measure: "strike",
      name: "Foot strike angle",
      test: "strike-angle",
      class: "uncertain",
      by: "proposed",
    }),
    judged({ measure: "overstride-cm", name: "Ankle ahead of the hip", test: "" }),
  ];
  within_(
    <ProposedMeasures
      read={read({ readings: list })}
      clip={clip()}
      shot={{ current: async () => new Blob(["x"]) }}
    />,
  );
  await screen.findAllByRole("button", { name: /into the screening$/ });
  expect(screen.queryByRole("button", { name: /Foot strike angle/ }), "uncertain stays here").toBeNull();
  await userEvent.click(screen.getByRole("button", { name: "All into the screening…" }));
  expect(screen.getByText(/2 readings with this picture/)).toBeTruthy();
  await userEvent.click(screen.getByRole("button", { name: "Put them in" }));
  await waitFor(() => expect(origins).toHaveLength(2));
  expect(calls.map((c) => c.body)).toEqual([{ value: 12.3 }, { value: 3 }]);
  expect(origins[0]).toContain("trials/overstride/left/1/origin?made=proposed&margin=4.000");
  expect(origins[1]).toContain("trials/overstride/right/1/origin?made=corrected&margin=2.000");
});

test("a reading is in the screening when its rounded value is", () => {
  const s = { trials: [{ test: "overstride", side: "left", slot: 1, value: 12.3 }] } as never;
  expect(isIn(s, judged({}))).toBe(true);
  expect(isIn(s, judged({ side: "right" }))).toBe(false);
  expect(isIn(undefined, judged({}))).toBe(false);
  expect(digits(judged({ unit: "mm", value: 251.6 }))).toBe("252");
});

test("what was done to a track is said in words", () => {
  expect(mended({ filled: 0, swapped: 0 })).toBe("no gaps, no swaps");
  expect(mended({ filled: 3, swapped: 2 })).toBe("3 points filled in; left and right put back in 2 frames");
});

test("a marker file asks which marker is which and shows what it gives", async () => {
  const asked: Marks[] = [];
  answer("GET", () => ({ items: [], trials: [] }));
  answer("PUT", () => ({ ...clip(), rev: 1 }));
  answer("POST", (_, o) => {
    asked.push(o.body as Marks);
    const whole = !!asked.at(-1)?.mapping?.["left-heel"];
    return {
      ...read(),
      readings: whole ? [judged({ by: "markers", n: 5 })] : [],
      says: whole ? [] : ["hip, heel and toe of both sides are needed to find the steps"],
      events: whole ? read().events : [],
    };
  });
  within_(
    <MarkersDesk
      clip={clip({ kind: "markers", markers: ["LHEE", "LTOE"], rate: 100, frames: 100, times: [] })}
    />,
  );
  expect(await screen.findByText(/are needed to find the steps/)).toBeTruthy();
  await userEvent.selectOptions(screen.getByLabelText("heel, left"), "LHEE");
  expect(await screen.findByText("Shin at contact")).toBeTruthy();
  expect(asked.at(-1)?.mapping).toEqual({ "left-heel": "LHEE" });
  const steps = screen.getByRole("region", { name: "Events of the feet" });
  expect(within(steps).getAllByRole("img")[0]?.getAttribute("aria-label")).toContain("frames 11 to 26");
  expect(within(steps).queryByRole("button"), "a strip that only shows has no buttons").toBeNull();
  await userEvent.selectOptions(screen.getByLabelText("heel, left"), "");
  await waitFor(() => expect(asked.at(-1)?.mapping).toEqual({}));
});
