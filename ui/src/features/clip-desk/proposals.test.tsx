// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import type { ReactNode } from "react";
import { MemoryRouter } from "react-router";
import { afterEach, expect, test, vi } from "vitest";
import { api } from "../../api/client";
import { LookThrough } from "./lookthrough";
import { MarkersDesk } from "./markers";
import type { Marks } from "./marks";
import { Propose } from "./proposals";
import { CantPropose, missing, propose } from "./propose";
import { ProposedMeasures } from "./proposedmeasures";
import type { Clip } from "./upload";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

import { judged, marks, read } from "./proposaltesting";

type Asked = { params: { path: Record<string, unknown> }; body: unknown };

/** Answers in place of the server. */
function answer(method: "GET" | "PUT" | "POST", fn: (path: string, o: Asked) => unknown) {
  vi.spyOn(api, method).mockImplementation(((path: string, o: Asked) =>
    Promise.resolve({ data: fn(path, o), response: new Response() })) as never);
}

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
  await userEvent.click(screen.getByRole("button", { name: /Box round the runner/ }));
  expect(setBoxing).toHaveBeenCalledWith(true);
  await userEvent.click(screen.getByRole("button", { name: "No box" }));
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
  await userEvent.click(screen.getByRole("button", { name: "Frame 41" }));
  expect(go).toHaveBeenCalledWith(40);
  await userEvent.click(screen.getByRole("button", { name: "This step is right" }));
  expect(set.mock.calls[0]?.[0].accepted).toEqual([{ from: 9, to: 26 }]);
  await userEvent.click(screen.getByRole("button", { name: "All is right" }));
  expect(set.mock.calls[1]?.[0].events).toHaveLength(5);
  await userEvent.click(screen.getByRole("button", { name: "Place heel and toe" }));
  expect(go).toHaveBeenLastCalledWith(15);
  expect(setAsk).toHaveBeenCalledWith(true);
  expect(screen.getByText(/heel and toe in 2 frames/).textContent).toContain("1 done");
  await userEvent.click(screen.getByRole("button", { name: /Take this frame/ }));
  expect(take).toHaveBeenCalled();
  cleanup();
  show(28);
  expect(screen.getByRole<HTMLButtonElement>("button", { name: "This step is right" }).disabled).toBe(true);
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
  expect(origins[0]).toContain(
    "trials/overstride/left/1/origin?made=proposed&margin=4.000&mark=c1%2Foverstride%2Fsteps",
  );
  expect(origins[1]).toContain("trials/overstride/right/1/origin?made=corrected&margin=2.000");
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
