import { t } from "@lingui/core/macro";
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { api, NoConnection, need, Problem, type Schema } from "../../api/client";
import { dropDraft, getDraft, putDraft } from "../../parts/drafts";
import { readNumber } from "../../parts/numbers";
import { inches, lengthFactor, toShown } from "../../parts/units";

type Screening = Schema["Screening"];
type Test = Schema["ScreeningTest"];
export type Side = "left" | "right";
/** Where a trial belongs: a side, or both for a test without sides. */
export type Place = Side | "both";

/** A trial as it stands in the fields. */
export type Entry = {
  text: string;
  pain: string;
  sharp: boolean;
  compensations: string[];
  block?: { height: string; length: string; floor: boolean };
  count?: number;
  of?: number;
  resolution?: number;
  crampAt?: number;
};
export const emptyEntry: Entry = { text: "", pain: "", sharp: false, compensations: [] };
export const keyOf = (test: string, side: Place, slot: number) => `${test}/${side}/${slot}`;

const example: Record<string, string> = { cm: "9.5", "°": "28", reps: "18", s: "24", mm: "9", spm: "168" };

/** An entry as the server wants it: a trial, nothing, or what can't be read. */
export function readEntry(test: Test, e: Entry): { trial?: Schema["TrialInput"]; error?: string } {
  const pain = readNumber(e.pain, "", "3");
  if (pain.error) return { error: t`Pain: a whole number from 0 to 10 is expected` };
  const common = {
    pain: pain.value,
    sharpPain: e.sharp || undefined,
    compensations: e.compensations,
    count: e.count,
    of: e.of,
    resolution: e.resolution,
    crampAt: e.crampAt,
  };
  if (e.block) {
    const h = readNumber(e.block.height, "cm", "2.5");
    const l = readNumber(e.block.length, "cm", "5");
    if (h.error || l.error) return { error: `Block: ${h.error ?? l.error}` };
    if (h.value !== undefined && l.value !== undefined)
      return { trial: { ...common, blockCm: h.value, lengthCm: l.value, alongFloor: e.block.floor } };
    return h.value === undefined && l.value === undefined
      ? {}
      : { error: t`Block height and toe length are needed together` };
  }
  const length = test.unit === "cm" ? lengthFactor(e.text) : { text: e.text, factor: 1 };
  const v = readNumber(length.text, test.unit, example[test.unit] ?? "1");
  if (v.error) return { error: v.error };
  if (v.value === undefined && !e.sharp) return {};
  return { trial: { ...common, value: v.value === undefined ? undefined : v.value * length.factor } };
}

const savedText = (it: Schema["SavedTrial"], test: Test | undefined) => {
  if (it.blockCm !== undefined || it.value === undefined) return "";
  const v = test?.unit === "cm" ? toShown(it.value) : it.value;
  return String(Number(v.toFixed(test?.unit === "cm" && inches() ? 2 : Math.max(1, test?.decimals ?? 1))));
};

const saved = (it: Schema["SavedTrial"], test: Test | undefined): Entry => ({
  text: savedText(it, test),
  pain: it.pain?.toString() ?? "",
  sharp: it.sharpPain ?? false,
  compensations: it.compensations ?? [],
  count: it.count,
  of: it.of,
  resolution: it.resolution,
  crampAt: it.crampAt,
  block:
    it.blockCm === undefined
      ? undefined
      : { height: String(it.blockCm), length: String(it.lengthCm), floor: it.alongFloor ?? false },
});

/**
 * The trials of a screening while they are typed: what is in the fields, what
 * the server computes of it, and a queue that saves each trial. The queue is
 * kept on the device and sent again after a lost connection; saving is by place,
 * so nothing is stored twice.
 */
export function useTrials(screening: Screening, tests: Test[], reason: string) {
  const slotName = `screening:${screening.id}`;
  const qc = useQueryClient();
  const [entries, setEntries] = useState<Record<string, Entry>>(() => {
    const from: Record<string, Entry> = {};
    for (const trial of screening.trials)
      from[keyOf(trial.test, trial.side, trial.slot)] = saved(
        trial,
        tests.find((x) => x.id === trial.test),
      );
    return { ...from, ...getDraft<Record<string, Entry>>(slotName) };
  });
  const [errors, setErrors] = useState<Record<string, string>>({});
  const [live, setLive] = useState<Record<string, Schema["JudgedResult"]>>({});
  const [offline, setOffline] = useState(false);
  const [waiting, setWaiting] = useState(0);
  const now = useRef({ entries, reason });
  now.current.reason = reason;
  // Being typed, not to be sent yet; and left, to be sent.
  const dirty = useRef<Set<string>>(new Set());
  const queue = useRef<Set<string>>(new Set());
  const running = useRef(false);
  const asked = useRef<Record<string, AbortController>>({});

  const keepDrafts = useCallback(() => {
    const open: Record<string, Entry> = {};
    for (const k of [...queue.current, ...dirty.current]) open[k] = now.current.entries[k] ?? emptyEntry;
    if (Object.keys(open).length) putDraft(slotName, open);
    else dropDraft(slotName);
    setWaiting(queue.current.size + dirty.current.size);
  }, [slotName]);

  const flush = useCallback(async () => {
    if (running.current) return;
    running.current = true;
    for (;;) {
      const key = queue.current.values().next().value;
      if (key === undefined) break;
      const [test = "", side = "left", slot = "1"] = key.split("/");
      const def = tests.find((it) => it.id === test);
      const entry = now.current.entries[key] ?? emptyEntry;
      const read = def ? readEntry(def, entry) : {};
      const params = {
        path: { id: screening.id, test, side: side as Place, slot: Number(slot) },
        query: now.current.reason ? { reason: now.current.reason } : {},
      };
      try {
        if (!read.error) {
          const exists = qc
            .getQueryData<Screening>(["screening", screening.id])
            ?.trials.some((trial) => keyOf(trial.test, trial.side, trial.slot) === key);
          const path = "/api/screenings/{id}/trials/{test}/{side}/{slot}" as const;
          if (read.trial) {
            qc.setQueryData(
              ["screening", screening.id],
              await need(api.PUT(path, { params, body: read.trial })),
            );
          } else if (exists) {
            qc.setQueryData(["screening", screening.id], await need(api.DELETE(path, { params })));
          }
          setErrors(({ [key]: _, ...rest }) => rest);
        }
        setOffline(false);
      } catch (e) {
        if (e instanceof NoConnection) {
          setOffline(true);
          await new Promise((r) => setTimeout(r, 1500));
          continue;
        }
        const p = e instanceof Problem ? e : undefined;
        const first = p && Object.values(p.fields)[0];
        setErrors((was) => ({ ...was, [key]: first ?? (e as Error).message }));
      }
      if (now.current.entries[key] === entry || now.current.entries[key] === undefined)
        queue.current.delete(key);
      keepDrafts();
    }
    running.current = false;
    keepDrafts();
  }, [keepDrafts, qc, screening.id, tests]);

  // Another device on the same screening: take its trials, keep what is typed here.
  useEffect(() => {
    const next = { ...now.current.entries };
    for (const trial of screening.trials) {
      const k = keyOf(trial.test, trial.side, trial.slot);
      const busy = queue.current.has(k) || dirty.current.has(k);
      if (!busy && !next[k]?.text && !next[k]?.block)
        next[k] = saved(
          trial,
          tests.find((x) => x.id === trial.test),
        );
    }
    now.current.entries = next;
    setEntries(next);
  }, [screening.trials, tests]);

  useEffect(() => {
    const kept = getDraft<Record<string, Entry>>(slotName);
    if (!kept) return;
    for (const k of Object.keys(kept)) queue.current.add(k);
    void flush();
  }, [slotName, flush]);

  const compute = useCallback(
    async (test: Test, all: Record<string, Entry>) => {
      const side = (s: Place) =>
        Array.from({ length: 5 }, (_, i) => all[keyOf(test.id, s, i + 1)])
          .map((e) => (e ? readEntry(test, e).trial : undefined))
          .filter((test) => test !== undefined);
      const half = (it: Schema["TrialInput"]) =>
        it.value !== undefined && (it.value < test.min || it.value > test.max);
      if ([...side(test.sided ? "left" : "both"), ...side("right")].some(half)) return; // still being typed, or answered when left
      asked.current[test.id]?.abort();
      const stop = new AbortController();
      asked.current[test.id] = stop;
      try {
        const got = await need(
          api.POST("/api/compute/trial-summary", {
            body: {
              test: test.id,
              ageYears: screening.runnerAge,
              left: side(test.sided ? "left" : "both"),
              right: side("right"),
            },
            signal: stop.signal,
          }),
        );
        setLive((was) => ({ ...was, [test.id]: got }));
      } catch {
        // A value out of range, or no connection: the field says so when it is saved.
      }
    },
    [screening.runnerAge],
  );

  const change = (test: Test, side: Place, slot: number, part: Partial<Entry>) => {
    const key = keyOf(test.id, side, slot);
    const next = { ...now.current.entries, [key]: { ...emptyEntry, ...now.current.entries[key], ...part } };
    now.current.entries = next;
    setEntries(next);
    const bad = readEntry(test, next[key] ?? emptyEntry).error;
    setErrors(({ [key]: _, ...rest }) => (bad ? { ...rest, [key]: bad } : rest));
    if (!bad && slot <= 5) void compute(test, next);
    dirty.current.add(key);
    keepDrafts();
  };
  const commit = () => {
    for (const k of dirty.current) queue.current.add(k);
    dirty.current.clear();
    void flush();
  };

  return {
    entries,
    errors,
    live,
    offline,
    waiting,
    change,
    /** Sends what is typed; called when a field is left. */
    commit,
    /** Resolves when nothing waits any more. */
    settled: async () => {
      commit();
      while (queue.current.size > 0 && running.current) await new Promise((r) => setTimeout(r, 50));
    },
  };
}
