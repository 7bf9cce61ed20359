import type { Mutation, QueryClient } from "@tanstack/react-query";
import {
  type PersistedClient,
  type Persister,
  persistQueryClientRestore,
  persistQueryClientSubscribe,
} from "@tanstack/react-query-persist-client";
import { del, get, set } from "idb-keyval";
import { api, need, type Schema } from "./client";

/**
 * What is reported while the server is away waits here, on this device, under the
 * practice and user who reported it: it is sent when the server is back, also after
 * the page was closed. Each request carries its key, so that none is stored twice.
 */
export const queued = {
  session: {
    mutationKey: ["queued", "session"],
    mutationFn: (v: { block: string; key: string; body: Schema["SessionInput"] }) =>
      need(
        api.POST("/api/blocks/{id}/session-logs", {
          params: { path: { id: v.block }, header: { "Idempotency-Key": v.key } },
          body: v.body,
        }),
      ),
  },
  run: {
    mutationKey: ["queued", "run"],
    mutationFn: (v: { runner: string; key: string; body: Schema["RunInput"] }) =>
      need(
        api.POST("/api/runners/{id}/runs", {
          params: { path: { id: v.runner }, header: { "Idempotency-Key": v.key } },
          body: v.body,
        }),
      ),
  },
  day: {
    mutationKey: ["queued", "day"],
    mutationFn: putDay,
  },
};

// What one device saved itself goes on from what it had read: one revision to the next.
const followed = new Map<string, Map<number, number>>();

async function putDay(v: { runner: string; on: string; body: Schema["DayInput"] }) {
  const place = `${v.runner}/${v.on}`;
  const own = followed.get(place) ?? new Map<number, number>();
  followed.set(place, own);
  let rev = v.body.rev ?? 0;
  for (let n = own.get(rev); n !== undefined; n = own.get(rev)) rev = n;
  const now = await need(
    api.PUT("/api/runners/{id}/days/{on}", {
      params: { path: { id: v.runner, on: v.on } },
      body: { ...v.body, rev },
    }),
  );
  if (now.day.rev === rev + 1) own.set(rev, now.day.rev);
  return now;
}

/** Lets the cache know what can wait, so that it can be gone on with. */
export function teach(client: QueryClient) {
  for (const k of Object.values(queued))
    client.setMutationDefaults(k.mutationKey, {
      mutationFn: k.mutationFn as (v: unknown) => Promise<unknown>,
      // Gone on with after the page was closed: everything looks again.
      onSuccess: () => client.invalidateQueries(),
    });
}

const of = (m: Mutation) => m.options.mutationKey?.[0] === "queued";
const signedOut = (m: Mutation) => (m.state.error as { status?: number } | null)?.status === 401;

/** On its way, or turned away because nobody is signed in any more. */
const waits = (m: Mutation) => of(m) && (m.state.status === "pending" || signedOut(m));

/** Waits because the server was not reached. */
export const held = (m: Mutation) => of(m) && m.state.status === "pending" && m.state.failureCount > 0;

/** Goes on with what waits, as it was asked for. */
function goOn(client: QueryClient, m: Mutation) {
  const cache = client.getMutationCache();
  if (m.state.status === "pending") {
    void m.continue().catch(() => {});
    return;
  }
  cache.remove(m);
  void cache
    .build(
      client,
      client.defaultMutationOptions({ mutationKey: m.options.mutationKey, scope: m.options.scope }),
    )
    .execute(m.state.variables)
    .catch(() => {});
}

/** How many reports wait for the server. */
export const waiting = (client: QueryClient) => client.getMutationCache().getAll().filter(waits).length;

const keptFor = 14 * 24 * 3600 * 1000;
// A newer shape of what waits gets a new name; what an older page left is dropped.
const shape = "1";

let stop: (() => void) | undefined;
let slot = "";

const persister = (name: string): Persister => ({
  persistClient: (c: PersistedClient) => set(name, c),
  restoreClient: () => get<PersistedClient>(name),
  removeClient: () => del(name),
});

/** Takes up what waits of a user, and keeps what will. */
export async function queueOf(client: QueryClient, practice: string, user: string) {
  const name = `queue:${practice}:${user}`;
  if (typeof indexedDB === "undefined") return;
  if (name === slot) {
    // The same user is back at the door.
    for (const m of client.getMutationCache().getAll()) if (of(m) && signedOut(m)) goOn(client, m);
    return;
  }
  for (const m of client.getMutationCache().getAll()) if (waits(m)) client.getMutationCache().remove(m);
  stop?.();
  slot = name;
  const keep = { queryClient: client, persister: persister(name), maxAge: keptFor, buster: shape };
  await persistQueryClientRestore(keep);
  stop = persistQueryClientSubscribe({
    ...keep,
    dehydrateOptions: { shouldDehydrateQuery: () => false, shouldDehydrateMutation: waits },
  });
  for (const m of client.getMutationCache().getAll()) if (waits(m)) goOn(client, m);
}

/** Forgets what waits of whoever is signed in. */
export async function dropQueue(client: QueryClient) {
  stop?.();
  stop = undefined;
  for (const m of client.getMutationCache().getAll()) if (waits(m)) client.getMutationCache().remove(m);
  if (slot) await del(slot);
  slot = "";
}
