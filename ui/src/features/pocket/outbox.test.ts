import "fake-indexeddb/auto";
import { expect, test } from "vitest";
import { type Kept, openStore, passing, type Report, type Store } from "./keep";
import { type Answer, Outbox } from "./outbox";

const report = (id: string): Report => ({
  id,
  kind: "note",
  on: "2026-11-28",
  at: "2026-11-28T06:00:00Z",
  note: id,
});

/** A small generator of chance with a seed. */
function chance(seed: number) {
  let s = seed * 2654435761 + 1;
  return (n: number) => {
    s = (Math.imul(s, 1664525) + 1013904223) >>> 0;
    return s % n;
  };
}

test("what is told is kept first and sent the oldest first, each once", async () => {
  const store = passing();
  const sent: string[] = [];
  const box = new Outbox(
    store,
    async (list) => {
      sent.push(...list.map((r) => r.id));
      return { is: "told", items: list.map((r) => ({ id: r.id, state: "taken" })) };
    },
    () => {},
  );
  for (const id of ["a", "b", "c"]) await box.add(report(id));
  await box.pump();
  await expect.poll(() => sent).toEqual(["a", "b", "c"]);
  await box.pump();
  expect(sent).toEqual(["a", "b", "c"]);
  expect((await store.reports()).map((k) => k.told)).toEqual(["coach", "coach", "coach"]);
});

test("files go a few at a time, and stay here only until they are with the coach", async () => {
  const store = passing();
  const sent: number[] = [];
  const data = "x".repeat(2_500_000);
  const box = new Outbox(
    store,
    async (list) => {
      sent.push(list.length);
      return {
        is: "told",
        items: list.map((r) => ({ id: r.id, state: r.id === "3" ? "refused" : "taken", why: "no run" })),
      };
    },
    () => {},
  );
  for (let i = 0; i < 6; i++)
    await store.putReport({
      id: `${i}`,
      order: Date.now() + i,
      told: "kept",
      report: { ...report(`${i}`), kind: "file", note: undefined, file: { name: "a.gpx", data } },
    });
  await box.pump();
  expect(sent).toEqual([2, 2, 2]);
  const left = await store.reports();
  expect(left.map((k) => k.report.file?.data?.length ?? 0)).toEqual([0, 0, 0, data.length, 0, 0]);
  expect(left.map((k) => k.report.file?.name)).toEqual(Array(6).fill("a.gpx"));
});

test("signed out or away, everything stays; one that is refused holds up no other", async () => {
  const store = passing();
  let now: Answer = { is: "away" };
  let out = false;
  const box = new Outbox(
    store,
    async (list) => {
      if (now.is !== "told") return now;
      if (list.some((r) => r.id === "bad")) return { is: "refused", why: "no such thing" };
      return { is: "told", items: list.map((r) => ({ id: r.id, state: "received" })) };
    },
    (_, o) => {
      out = o;
    },
  );
  for (const id of ["a", "bad", "c"]) await box.add(report(id));
  await box.pump();
  expect((await store.reports()).map((k) => k.told)).toEqual(["kept", "kept", "kept"]);
  now = { is: "out" };
  await box.pump();
  await expect.poll(() => out).toBe(true);
  expect(await store.reports()).toHaveLength(3);
  now = { is: "told", items: [] };
  await box.pump();
  await expect
    .poll(async () => (await store.reports()).map((k) => k.told))
    .toEqual(["coach", "refused", "coach"]);
  expect((await store.reports())[1]?.why).toBe("no such thing");
  await box.hear([{ id: "c", state: "refused", why: "the plan changed" }]);
  expect((await store.reports())[2]).toMatchObject({ told: "refused", why: "the plan changed" });
  await box.drop("bad");
  expect(await store.reports()).toHaveLength(2);
});

// Any order of cut-offs, lost answers and restarts ends with the same set at the
// server, each once.
test("whatever is cut off, the server has each report once and the phone lost none", async () => {
  for (let seed = 1; seed <= 25; seed++) {
    const pick = chance(seed);
    const store: Store = seed % 2 ? passing() : await openStore(`box-${seed}`);
    const server = new Map<string, number>();
    const send = async (list: Report[]): Promise<Answer> => {
      const how = pick(5);
      if (how === 0) return { is: "away" };
      const part = how === 1 ? list.slice(0, 1 + pick(list.length)) : list;
      for (const r of part) server.set(r.id, (server.get(r.id) ?? 0) + (server.has(r.id) ? 0 : 1));
      if (how === 2) return { is: "away" }; // it came in, and the answer was lost
      return {
        is: "told",
        items: part.map((r) => ({ id: r.id, state: pick(9) === 0 ? "double" : "received" })),
      };
    };
    let box = new Outbox(store, send, () => {});
    const ids = Array.from({ length: 12 + pick(80) }, (_, i) => `r${i}`);
    for (const id of ids) {
      await box.add(report(id));
      if (pick(6) === 0) box = new Outbox(store, send, () => {}); // the page was closed
    }
    const last = new Outbox(store, send, () => {});
    for (let i = 0; i < 400; i++) {
      await last.pump();
      if ((await store.reports()).every((k: Kept) => k.told !== "kept")) break;
    }
    await expect.poll(() => server.size, { message: `seed ${seed}` }).toBe(ids.length);
    expect([...server.values()].every((n) => n === 1)).toBe(true);
    const kept = await store.reports();
    expect(kept.map((k) => k.id)).toEqual(ids);
  }
});
