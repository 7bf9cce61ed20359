import { afterEach, beforeEach, expect, test, vi } from "vitest";

vi.mock("./queue", async (real) => ({
  ...(await real<typeof import("./queue")>()),
  queueOf: () => new Promise(() => {}),
}));
vi.mock("idb", () => ({ openDB: () => new Promise(() => {}) }));
vi.hoisted(() => {
  globalThis.fetch = (async () =>
    new Response(JSON.stringify({ me: { id: "u", practiceId: "p", zone: "UTC", units: "metric" } }), {
      headers: { "Content-Type": "application/json" },
    })) as typeof fetch;
});
const { client, meQuery } = await import("./hooks");
const { openStore } = await import("../features/pocket/keep");

beforeEach(() => vi.useFakeTimers());
afterEach(() => vi.useRealTimers());

test("a storage that never answers keeps nobody out of the desk", async () => {
  const me = client.fetchQuery(meQuery);
  await vi.advanceTimersByTimeAsync(2_100);
  expect(await me).toMatchObject({ id: "u" });
});

test("a phone whose storage never answers goes on and says that it keeps nothing", async () => {
  const opening = openStore();
  await vi.advanceTimersByTimeAsync(8_100);
  expect((await opening).lasting).toBe(false);
});
