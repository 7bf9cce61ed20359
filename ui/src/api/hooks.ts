import {
  MutationCache,
  QueryCache,
  QueryClient,
  queryOptions,
  useInfiniteQuery,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { saidIn } from "../parts/dates";
import { draftLike, draftsOf, dropDraft, putDraft } from "../parts/drafts";
import { unitsAre } from "../parts/measures";
import { within } from "../parts/within";
import { api, freshKey, NoConnection, need, Problem, type Schema } from "./client";
import { queueOf, teach } from "./queue";

// A session that ended leads to the door; what was typed waits on the device.
const ended = (e: Error) => {
  if (e instanceof Problem && e.status === 401) client.setQueryData(["me"], null);
};

export const client: QueryClient = new QueryClient({
  queryCache: new QueryCache({ onError: ended }),
  mutationCache: new MutationCache({ onError: ended }),
  defaultOptions: {
    queries: {
      networkMode: "always",
      retry: (n, e) => e instanceof NoConnection && n < 3,
      refetchOnWindowFocus: false,
      staleTime: 2_000,
    },
    // A lost connection is retried with the same key until it is back.
    mutations: { networkMode: "always", retry: (_, e) => e instanceof NoConnection, retryDelay: 1_500 },
  },
});

teach(client);

/** How long a device's storage is waited for. */
const storageTime = 2_000;

/** Who is signed in, or null. */
export const meQuery = queryOptions({
  queryKey: ["me"],
  queryFn: async () => {
    const me = (await need(api.GET("/api/session"))).me ?? null;
    if (me) {
      draftsOf(me.practiceId, me.id);
      saidIn(me.zone);
      unitsAre(me.units);
      // A device that keeps nothing, or whose storage does not answer, is no reason not to
      // let them in.
      await within(
        storageTime,
        queueOf(client, me.practiceId, me.id).catch(() => {}),
      );
    }
    return me;
  },
  retry: false,
});
export const useMe = () => useQuery(meQuery);

/** The head of a runner's pages. */
export const barQuery = (id: string) =>
  queryOptions({
    queryKey: ["bench", "bar", id],
    queryFn: () => need(api.GET("/api/runners/{id}/bar", { params: { path: { id } } })),
  });

/** A runner's running on one time axis. */
export const loadQuery = (runner: string, weeks: number) =>
  queryOptions({
    queryKey: ["load", runner, weeks],
    queryFn: () =>
      need(api.GET("/api/runners/{id}/load", { params: { path: { id: runner }, query: { weeks } } })),
  });

/**
 * Asks for what a page of a runner shows while its script is still on the way; nothing
 * is asked for nobody.
 */
export async function warm(id: string, running = false) {
  const me = await client.ensureQueryData(meQuery).catch(() => null);
  if (!me) return;
  void client.prefetchQuery(barQuery(id));
  void client.prefetchQuery(blockQuery(id));
  if (running) void client.prefetchQuery(loadQuery(id, 8));
}
export const useBench = (search: string) =>
  useInfiniteQuery({
    queryKey: ["bench", search],
    initialPageParam: 0,
    queryFn: ({ pageParam }) =>
      need(api.GET("/api/runners", { params: { query: { search, page: pageParam } } })),
    getNextPageParam: (last, pages) =>
      pages.reduce((n, p) => n + p.items.length, 0) < last.total && last.items.length > 0
        ? pages.length
        : undefined,
    placeholderData: (before) => before,
  });
export const useRunner = (id: string) =>
  useQuery({
    queryKey: ["runner", id],
    queryFn: () => need(api.GET("/api/runners/{id}", { params: { path: { id } } })),
  });
export const useScreenings = (id: string) =>
  useQuery({
    queryKey: ["screenings", id],
    queryFn: () => need(api.GET("/api/runners/{id}/screenings", { params: { path: { id } } })),
  });
export const useTests = () =>
  useQuery({
    queryKey: ["tests"],
    queryFn: () => need(api.GET("/api/screening-tests")),
    staleTime: Number.POSITIVE_INFINITY,
  });
export const useScreening = (id: string) =>
  useQuery({
    queryKey: ["screening", id],
    queryFn: () => need(api.GET("/api/screenings/{id}", { params: { path: { id } } })),
    refetchInterval: 10_000, // an assistant may be typing on another device
  });
export const useJournal = (id: string) =>
  useQuery({
    queryKey: ["journal", id],
    queryFn: () => need(api.GET("/api/runners/{id}/journal", { params: { path: { id } } })),
  });
/** The runner's present block, or null where there is none. */
export const blockQuery = (runner: string) =>
  queryOptions({
    queryKey: ["block", runner],
    queryFn: async () =>
      (await need(api.GET("/api/runners/{id}/block", { params: { path: { id: runner } } }))).block ?? null,
  });
export const useBlock = (runner: string) => useQuery(blockQuery(runner));

/** Keeps a new state of a block and lets the lists that show it look again. */
export function useKeepBlock() {
  const qc = useQueryClient();
  return (b: Schema["Block"]) => {
    qc.setQueryData(["block", b.runnerId], b);
    void qc.invalidateQueries({ queryKey: ["journal", b.runnerId] });
    void qc.invalidateQueries({ queryKey: ["bench"] });
  };
}

/** A change of a block, kept when the server has it. */
export function useBlockChange<V>(fn: (v: V) => Promise<Schema["Block"]>) {
  const keep = useKeepBlock();
  // One after the other, in the order asked for.
  return useMutation({ scope: { id: "block" }, mutationFn: fn, onSuccess: keep });
}

/**
 * What is typed into a form, kept on this device until done() is called. The key
 * goes with it, so that a form sent twice is stored once.
 */
export function useDraft<T>(name: string, initial: T) {
  const [state, setState] = useState(() => draftLike(name, initial) ?? { key: freshKey(), value: initial });
  const touched = useRef(false);
  useEffect(() => {
    if (touched.current) putDraft(name, state);
  }, [name, state]);
  return {
    value: state.value,
    key: state.key,
    set: (value: T) => {
      touched.current = true;
      setState((s) => ({ ...s, value }));
    },
    /** The server refused this request: a changed one needs a key of its own. */
    renew: () => setState((s) => ({ ...s, key: freshKey() })),
    done: () => {
      touched.current = false;
      dropDraft(name);
    },
  };
}

/**
 * The answer to a question that changes while somebody types or drags. Asks again
 * at each change, one question at a time: an answer that a newer question overtook
 * is dropped, the one before stays on show until the new one is there.
 */
export function useLatest<T>(question: string | null, ask: (question: string) => Promise<T>) {
  const [answer, setAnswer] = useState<T>();
  const [error, setError] = useState<Error | null>(null);
  const asking = useRef(false);
  const next = useRef<string | null>(null);
  const how = useRef(ask);
  how.current = ask;
  useEffect(() => {
    if (!question) return;
    next.current = question;
    const go = async () => {
      if (asking.current) return;
      while (next.current) {
        const now = next.current;
        next.current = null;
        asking.current = true;
        try {
          const got = await how.current(now);
          if (!next.current) {
            setAnswer(got);
            setError(null);
          }
        } catch (e) {
          if (!next.current) setError(e as Error);
        } finally {
          asking.current = false;
        }
      }
    };
    void go();
  }, [question]);
  return { answer, error };
}

const noOrigins: Schema["TrialOrigin"][] = [];

/** Where the trials of a screening come from, as far as it is known. */
export function useOrigins(screening: string) {
  return (
    useQuery({
      queryKey: ["origins", screening],
      queryFn: () => need(api.GET("/api/screenings/{id}/origins", { params: { path: { id: screening } } })),
    }).data?.items ?? noOrigins
  );
}
