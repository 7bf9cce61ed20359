// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test, vi } from "vitest";
import { api } from "../../api/client";
import { frameAt, seekTo } from "./frames";
import { opening } from "./model";
import { downs, Strip } from "./strip";
import { Transport } from "./transport";
import { bringIn, printOf } from "./upload";
import { useWheel } from "./wheel";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

test("a seek lands in the middle of its frame, also where frames are not even", () => {
  const times = [0, 0.02, 0.05, 0.09];
  expect(seekTo(times, 30, 1)).toBeCloseTo(0.041, 3);
  expect(seekTo(times, 30, 3)).toBeCloseTo(0.118, 3);
  expect(seekTo([], 50, 2)).toBeCloseTo(0.054);
  for (const [f] of times.entries()) expect(frameAt(times, 30, seekTo(times, 30, f))).toBe(f);
  for (let f = 0; f < 90; f++) expect(frameAt([], 30, seekTo([], 30, f))).toBe(f);
  expect(frameAt(times, 30, -1)).toBe(0);
  expect(frameAt(times, 30, 9)).toBe(3);
});

test("events without a partner stand out", () => {
  const e = (frame: number, foot: "left" | "right", kind: "contact" | "toe-off") => ({ frame, foot, kind });
  const all = [
    e(30, "left", "toe-off"),
    e(5, "left", "toe-off"),
    e(20, "left", "contact"),
    e(40, "left", "contact"),
    e(9, "right", "contact"),
  ];
  expect(downs(all, "left")).toEqual({
    out: [
      { from: 20, to: 30 },
      { from: 40, to: null },
    ],
    lone: [5],
  });
  expect(downs([], "right")).toEqual({ out: [], lone: [] });
});

test("the strip says what is marked, and its buttons mark", async () => {
  const onEvent = vi.fn();
  render(
    <Strip
      events={[
        { frame: 3, foot: "left", kind: "contact" },
        { frame: 18, foot: "left", kind: "toe-off" },
        { frame: 24, foot: "right", kind: "contact" },
      ]}
      count={100}
      frame={7}
      onFrame={() => {}}
      onEvent={onEvent}
    />,
  );
  expect(screen.getByRole("img", { name: "left: on the ground frames 4 to 19" })).toBeDefined();
  expect(screen.getByRole("img", { name: "right: on the ground frames 25 to not marked" })).toBeDefined();
  await userEvent.click(screen.getByRole("button", { name: /toe-off s: right foot/ }));
  expect(onEvent).toHaveBeenCalledWith("right", "toe-off");
});

// jsdom's files can't be read by promise
Blob.prototype.arrayBuffer ??= function (this: Blob) {
  return new Promise((done) => {
    const r = new FileReader();
    r.onload = () => done(r.result as ArrayBuffer);
    r.readAsArrayBuffer(this);
  });
};

/** A server that takes parts, and loses the connection when told to. */
function server(lose: number[]) {
  const got = { bytes: 0, parts: 0, deleted: false, finished: false };
  const view = () => ({
    data: { id: "c", part: 4, received: got.bytes, ready: got.finished },
    response: new Response(null, { status: 200 }),
  });
  vi.spyOn(api, "POST").mockImplementation((async (path: string) => {
    if (path.endsWith("/finish")) got.finished = true;
    return view();
  }) as never);
  vi.spyOn(api, "GET").mockImplementation((async () => view()) as never);
  vi.spyOn(api, "DELETE").mockImplementation((async () => {
    got.deleted = true;
    return view();
  }) as never);
  vi.stubGlobal("fetch", async (url: string, init: { body: Blob }) => {
    got.parts++;
    if (lose.includes(got.parts)) throw new TypeError("lost");
    const offset = Number(new URL(url, "http://x").searchParams.get("offset"));
    if (offset !== got.bytes) return new Response("{}", { status: 422 });
    got.bytes += init.body.size;
    return new Response(JSON.stringify({ received: got.bytes }), { status: 200 });
  });
  return got;
}

const now = async () => {};

test("an upload goes on after a lost connection", async () => {
  const got = server([2, 3]);
  const seen: number[] = [];
  const file = new File(["0123456789"], "a.webm");
  const clip = await bringIn("s", file, (n) => seen.push(n), new AbortController().signal, now);
  expect(clip.ready).toBe(true);
  expect(got).toMatchObject({ bytes: 10, parts: 5, deleted: false });
  expect(seen.at(-1)).toBe(1);
});

test("an upload that is stopped leaves nothing; one that never comes through is kept and goes on", async () => {
  let got = server([]);
  const stop = new AbortController();
  const file = new File(["0123456789"], "a.webm");
  await expect(bringIn("s", file, () => stop.abort(), stop.signal, now)).rejects.toThrow();
  expect(got).toMatchObject({ deleted: true, finished: false });
  got = server(Array.from({ length: 40 }, (_, i) => i + 1));
  await expect(bringIn("s", file, () => {}, new AbortController().signal, now)).rejects.toThrow();
  expect(got.deleted).toBe(false);
  expect(got.parts).toBe(7);
  // The same file again: the server knows it by its print and says what is here.
  got = server([]);
  got.bytes = 8;
  const clip = await bringIn("s", file, () => {}, new AbortController().signal, now);
  expect(clip.ready).toBe(true);
  expect(got).toMatchObject({ bytes: 10, parts: 1, deleted: false });
});

test("a file looks the same on any day, another does not", async () => {
  const a = await printOf(new File(["0123456789"], "a.webm"));
  expect(await printOf(new File(["0123456789"], "b.mov"))).toBe(a);
  expect(await printOf(new File(["0123456780"], "a.webm"))).not.toBe(a);
  expect(await printOf(new File([new Uint8Array(600_000)], "a"))).not.toBe(
    await printOf(new File([new Uint8Array(600_001)], "a")),
  );
  expect(a.length).toBeLessThanOrEqual(64);
});

test("the wheel steps over the lines, one frame a notch", () => {
  const seen: number[] = [];
  function Lines() {
    const box = useWheel((by) => seen.push(by));
    return <div ref={box} data-testid="lines" />;
  }
  render(<Lines />);
  const wheel = (deltaY: number, ctrlKey = false) =>
    screen
      .getByTestId("lines")
      .dispatchEvent(new WheelEvent("wheel", { deltaY, ctrlKey, cancelable: true, bubbles: true }));
  expect(wheel(120)).toBe(false);
  wheel(-3);
  expect(wheel(120, true)).toBe(true);
  expect(seen).toEqual([1, -1]);
});

test("the number of a frame says when its picture is not there", () => {
  const line = (there: "here" | "on its way" | number) => {
    cleanup();
    render(
      <Transport
        d={opening("contact")}
        act={() => {}}
        go={() => {}}
        count={50}
        there={there}
        seconds={0.1}
      />,
    );
    return screen.getByRole("status").textContent;
  };
  expect(line("here")).not.toContain("on its way");
  expect(line("on its way")).toContain("on its way");
  expect(line(11)).toContain("this browser shows frame 12");
});
