import "fake-indexeddb/auto";
import { QueryClient } from "@tanstack/react-query";
import { get } from "idb-keyval";
import { afterEach, beforeEach, expect, test, vi } from "vitest";

// The client takes fetch as it is when it is made; what it answers changes.
const net = vi.hoisted(() => {
  const state = { asked: [] as { url: string; key: string | null; body: unknown }[], answer: 200 as number };
  globalThis.fetch = async (r) => {
    const req = r as Request;
    if (state.answer === 0) throw new TypeError("no line");
    state.asked.push({
      url: new URL(req.url).pathname,
      key: req.headers.get("Idempotency-Key"),
      body: await req.json(),
    });
    return new Response(state.answer === 200 ? "{}" : `{"detail":"no","status":${state.answer}}`, {
      status: state.answer,
      headers: { "Content-Type": "application/json" },
    });
  };
  return state;
});
const { NoConnection } = await import("./client");
const { dropQueue, queued, queueOf, teach, waiting } = await import("./queue");

const soon = (look: () => unknown) => vi.waitFor(look, { timeout: 60_000 });

const fresh = () => {
  const c = new QueryClient({
    defaultOptions: {
      mutations: { networkMode: "always", retry: (_, e) => e instanceof NoConnection, retryDelay: 5 },
    },
  });
  teach(c);
  return c;
};
const run = { runner: "r1", key: "k1", body: { on: "2026-11-02", km: 8, minutes: 48 } };
const report = (c: QueryClient) =>
  c
    .getMutationCache()
    .build(c, c.defaultMutationOptions({ mutationKey: queued.run.mutationKey }))
    .execute(run);
const kept = async (user: string) =>
  ((await get(`queue:p:${user}`)) as { clientState: { mutations: unknown[] } } | undefined)?.clientState
    .mutations ?? [];

let clients: QueryClient[] = [];
const client = () => {
  const c = fresh();
  clients.push(c);
  return c;
};
beforeEach(() => {
  net.asked.length = 0;
  net.answer = 200;
});
afterEach(async () => {
  net.answer = 200;
  for (const c of clients) await dropQueue(c);
  clients = [];
});

test("what was reported without a line is sent after the page was closed, once and under its key", async () => {
  const before = client();
  await queueOf(before, "p", "u");
  net.answer = 0;
  void report(before).catch(() => {});
  await soon(async () => expect(await kept("u")).toHaveLength(1));
  expect(waiting(before)).toBe(1);
  // Another page; the old one, should it still be open, sends the same under the same key.
  const after = client();
  net.answer = 200;
  await queueOf(after, "p", "u");
  await soon(() => expect(net.asked.length).toBeGreaterThan(0));
  for (const a of net.asked) expect(a).toEqual({ url: "/api/runners/r1/runs", key: "k1", body: run.body });
  await soon(async () => expect(await kept("u")).toHaveLength(0));
  expect(waiting(after)).toBe(0);
});

test("another user of the device sends nothing of it", async () => {
  const before = client();
  await queueOf(before, "p", "u2");
  net.answer = 401;
  await report(before).catch(() => {});
  await soon(async () => expect(await kept("u2")).toHaveLength(1));
  const other = client();
  net.answer = 200;
  net.asked.length = 0;
  await queueOf(other, "p", "v2");
  await new Promise((done) => setTimeout(done, 0));
  expect(net.asked).toEqual([]);
  expect(await kept("u2")).toHaveLength(1);
});

test("what was turned away at the door is sent when the same user is back", async () => {
  const c = client();
  await queueOf(c, "p", "u3");
  net.answer = 401;
  await report(c).catch(() => {});
  net.answer = 200;
  net.asked.length = 0;
  await queueOf(c, "p", "u3");
  await soon(() => expect(net.asked).toHaveLength(1));
  await soon(async () => expect(await kept("u3")).toHaveLength(0));
});

test("what was refused does not wait, and signing out forgets the rest", async () => {
  const c = client();
  await queueOf(c, "p", "u4");
  net.answer = 422;
  await expect(report(c)).rejects.toThrow("no");
  expect(waiting(c)).toBe(0);
  net.answer = 401;
  await report(c).catch(() => {});
  expect(waiting(c)).toBe(1);
  await dropQueue(c);
  expect(waiting(c)).toBe(0);
  expect(await get("queue:p:u4")).toBeUndefined();
});
