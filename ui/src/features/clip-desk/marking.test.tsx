// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, fireEvent, render, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { MemoryRouter, Route, Routes } from "react-router";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { api } from "../../api/client";
import { DeskView } from "./desk";
import type { Marks } from "./marks";
import { clip, templates } from "./marktesting";
import type { Clip } from "./upload";

let saved: { rev: number; marks: Marks }[] = [];
let asked: Marks[] = [];
/** The clip as the server has it now, where that is not the one the desk began with. */
let shown: Clip | undefined;

beforeEach(() => {
  saved = [];
  asked = [];
  shown = undefined;
  vi.spyOn(HTMLElement.prototype, "getBoundingClientRect").mockReturnValue({
    left: 0,
    top: 0,
    width: 640,
    height: 360,
    right: 640,
    bottom: 360,
    x: 0,
    y: 0,
    toJSON: () => "",
  });
  vi.spyOn(SVGElement.prototype, "getBoundingClientRect").mockReturnValue({
    left: 0,
    top: 0,
    width: 640,
    height: 360,
    right: 640,
    bottom: 360,
    x: 0,
    y: 0,
    toJSON: () => "",
  });
  vi.spyOn(HTMLCanvasElement.prototype, "getContext").mockReturnValue(null);
  SVGElement.prototype.setPointerCapture = () => {};
});

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

async function desk(c: Clip, refuse?: () => unknown) {
  vi.spyOn(api, "GET").mockImplementation((async (path: string) => ({
    data:
      path === "/api/clip-templates"
        ? { items: templates }
        : path === "/api/clips/{id}"
          ? (shown ?? c)
          : { items: [], trials: [], finished: false },
    response: new Response(),
  })) as never);
  vi.spyOn(api, "PUT").mockImplementation((async (
    path: string,
    o: { params: { query: { rev: number } }; body: Marks },
  ) => {
    const no = refuse?.();
    if (no) return no;
    if (path.endsWith("/marks")) saved.push({ rev: o.params.query.rev, marks: o.body });
    return { data: { ...c, rev: o.params.query.rev + 1 }, response: new Response() };
  }) as never);
  vi.spyOn(api, "POST").mockImplementation((async (_: string, o: { body: { marks: Marks } }) => {
    asked.push(o.body.marks);
    const m = o.body.marks.moments[0];
    const two = m && Object.keys(m.points).length === 2;
    return {
      data: {
        moments: m
          ? [
              {
                frame: m.frame,
                side: m.side,
                template: m.template,
                missing: [],
                readings: two
                  ? [
                      {
                        measure: "shin",
                        name: "Shin from vertical",
                        unit: "°",
                        value: 30.04,
                        margin: 1.85,
                        shortPx: 172,
                        side: m.side,
                        test: "seated-shin",
                        verdict: "ok",
                        unsure: true,
                        surer: "film closer",
                        source: { kind: "house", text: "" },
                      },
                    ]
                  : [],
              },
            ]
          : [],
        times: [],
        says: ["A word of advice."],
      },
      response: new Response(),
    };
  }) as never);
  render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
      <MemoryRouter initialEntries={["/clips/c"]}>
        <Routes>
          <Route path="/clips/:id" element={<DeskView />} />
        </Routes>
      </MemoryRouter>
    </QueryClientProvider>,
  );
  await screen.findByText("Mark");
  const image = document.querySelector("section[aria-label='The clip'] img") as HTMLImageElement;
  Object.defineProperty(image, "naturalWidth", { value: 640 });
  Object.defineProperty(image, "naturalHeight", { value: 360 });
  fireEvent.load(image);
  return screen.getByRole("img", { name: "The picture with its marks" });
}

const click = (svg: Element, x: number, y: number) => {
  fireEvent.pointerDown(svg, { clientX: x, clientY: y });
  fireEvent.pointerUp(svg, { clientX: x, clientY: y });
};
const press = (key: string, more: object = {}) => fireEvent.keyDown(window, { key, ...more });
const points = () => asked.at(-1)?.moments[0]?.points ?? {};

test("points are placed in order, nudged by keys, undone and saved by revision", async () => {
  const svg = await desk(clip());
  click(svg, 412, 318);
  click(svg, 498, 169);
  await waitFor(() => expect(points()).toEqual({ ankle: { x: 412, y: 318 }, knee: { x: 498, y: 169 } }));
  const measures = screen.getByRole("region", { name: "Measures" });
  expect(await within(measures).findByText(/30\.0/)).toBeTruthy();
  expect(measures.textContent).toContain("± 1.9");
  expect(measures.textContent).toContain("ok, unsure");
  expect(measures.textContent).toContain("A word of advice.");
  // The point that was placed last is chosen: arrows move it by a pixel, with Shift by ten.
  press("ArrowRight");
  press("ArrowUp", { shiftKey: true });
  await waitFor(() => expect(points().knee).toEqual({ x: 499, y: 159 }));
  press("z", { ctrlKey: true });
  await waitFor(() => expect(points().knee).toEqual({ x: 499, y: 169 }));
  press("y", { ctrlKey: true });
  await waitFor(() => expect(points().knee).toEqual({ x: 499, y: 159 }));
  press("Delete");
  await waitFor(() => expect(points()).toEqual({ ankle: { x: 412, y: 318 } }));
  await waitFor(() => expect(saved.at(-1)?.marks.moments[0]?.points).toEqual({ ankle: { x: 412, y: 318 } }), {
    timeout: 3000,
  });
  expect(saved[0]?.rev).toBe(3);
  await waitFor(() => expect(screen.getByRole("status").textContent).toBe("saved"));
});

test("a drag is one step, however long, and stays in the picture", async () => {
  const svg = await desk(clip());
  click(svg, 100, 100);
  await waitFor(() => expect(points().ankle).toEqual({ x: 100, y: 100 }));
  const mark = svg.querySelector("g") as SVGGElement;
  fireEvent.pointerDown(mark, { clientX: 100, clientY: 100, pointerId: 1 });
  for (const x of [110, 300, 900]) fireEvent.pointerMove(svg, { clientX: x, clientY: 120 });
  fireEvent.pointerUp(svg, { clientX: 900, clientY: 120 });
  await waitFor(() => expect(points().ankle).toEqual({ x: 640, y: 120 }));
  await userEvent.click(screen.getByRole("button", { name: "Undo" }));
  await waitFor(() => expect(points().ankle).toEqual({ x: 100, y: 100 }));
});

test("the scale takes two clicks and its length; a moment of the other side is another one", async () => {
  const svg = await desk(clip());
  await userEvent.click(screen.getByRole("button", { name: "scale" }));
  click(svg, 10, 20);
  expect(screen.getByText("Click its second point.")).toBeTruthy();
  click(svg, 210, 20);
  fireEvent.change(await screen.findByLabelText("Length of the scale, cm"), { target: { value: "50,5" } });
  await waitFor(() =>
    expect(asked.at(-1)?.picture).toEqual({
      scale: [
        { x: 10, y: 20 },
        { x: 210, y: 20 },
      ],
      scaleCm: 50.5,
      heightPx: expect.any(Number),
    }),
  );
  click(svg, 30, 30);
  await userEvent.click(within(screen.getByRole("group", { name: "Side" })).getByLabelText("left"));
  click(svg, 60, 60);
  await waitFor(() => expect(asked.at(-1)?.moments.map((m) => m.side)).toEqual(["right", "left"]));
  press("Escape");
  expect(screen.queryByText(/Click its/)).toBeNull();
});

test("places can be set by keyboard alone, in the middle first", async () => {
  await desk(clip());
  await userEvent.click(screen.getByRole("button", { name: /ankle bone/ }));
  await waitFor(() => expect(points().ankle).toEqual({ x: 320, y: 180 }));
  press("ArrowDown");
  await waitFor(() => expect(points().ankle).toEqual({ x: 320, y: 181 }));
});

test("how it was filmed is asked, and the view changes what can be marked", async () => {
  await desk(clip());
  expect(screen.getByText("Navicular drop")).toBeTruthy();
  expect(screen.queryByText("From behind")).toBeNull();
  await userEvent.click(screen.getByLabelText("The runner runs to the left"));
  await waitFor(() => expect(asked.at(-1)?.picture.runsLeft).toBe(true));
  const near = screen.getByRole("group", { name: "Nearest the camera" });
  await userEvent.click(within(near).getByLabelText("left"));
  await waitFor(() => expect(asked.at(-1)?.near).toBe("left"));
  await userEvent.click(screen.getByLabelText("behind"));
  await waitFor(() => expect(asked.at(-1)?.view).toBe("behind"));
  expect(screen.getByText("From behind")).toBeTruthy();
  expect(screen.queryByRole("group", { name: "Nearest the camera" })).toBeNull();
});

test("somebody else's marks are put together with these", async () => {
  let refused = 0;
  const theirs = { ...clip().marks, events: [{ frame: 0, foot: "left" as const, kind: "contact" as const }] };
  const svg = await desk(clip(), () =>
    refused++ === 0
      ? {
          error: { title: "Conflict", status: 409, detail: "changed meanwhile" },
          response: new Response(null, { status: 409 }),
        }
      : undefined,
  );
  shown = { ...clip(), rev: 8, marks: theirs };
  click(svg, 5, 5);
  await waitFor(() => expect(saved.at(-1)?.marks.events).toEqual(theirs.events), { timeout: 3000 });
  expect(saved.at(-1)?.rev).toBe(8);
  expect(saved.at(-1)?.marks.moments[0]?.points).toEqual({ ankle: { x: 5, y: 5 } });
  expect(screen.queryByRole("alert")).toBeNull();
});

test("a mark made just before leaving is sent, and kept until it is", async () => {
  const svg = await desk(clip());
  click(svg, 5, 5);
  await act(async () => {});
  cleanup();
  await waitFor(() => expect(saved.at(-1)?.marks.moments[0]?.points).toEqual({ ankle: { x: 5, y: 5 } }));
});

test("a mark made just before the page itself goes is taken along", async () => {
  const svg = await desk(clip());
  const sent: [string, RequestInit][] = [];
  vi.stubGlobal("fetch", async (u: string, o: RequestInit) => {
    sent.push([u, o]);
    return new Response("{}");
  });
  window.dispatchEvent(new Event("pagehide"));
  expect(sent).toHaveLength(0);
  click(svg, 320, 180);
  window.dispatchEvent(new Event("pagehide"));
  expect(sent).toHaveLength(1);
  expect(sent[0]?.[0]).toBe("/api/clips/c/marks?rev=3");
  expect(sent[0]?.[1]).toMatchObject({ method: "PUT", keepalive: true });
  expect(JSON.parse(sent[0]?.[1].body as string).moments[0].points.ankle).toEqual({ x: 320, y: 180 });
  vi.unstubAllGlobals();
});

test("a moment whose points lie in several frames is one moment", async () => {
  const svg = await desk(clip());
  await userEvent.click(screen.getByLabelText("Navicular drop"));
  click(svg, 50, 50);
  await act(async () => {});
  click(svg, 50, 60);
  await waitFor(() => expect(Object.keys(points())).toEqual(["navicular-sit", "navicular-stand"]));
  expect(asked.at(-1)?.moments).toHaveLength(1);
});
