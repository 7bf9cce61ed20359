import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import type { Schema } from "../../api/client";
import { within } from "../../parts/within";

export type Plan = Schema["PocketPlan"];
export type Report = Schema["PocketReport"];
export type Told = "kept" | "coach" | "refused";

/**
 * A plan as this edition reads it: what an older server does not send is empty. One of
 * another kind altogether is none.
 */
export function whole(p: unknown): Plan | undefined {
  if (typeof p !== "object" || p === null || !("days" in p) || !("rules" in p) || !("at" in p))
    return undefined;
  const lists = {
    rails: [],
    places: [],
    minimum: [],
    strong: [],
    quiet: [],
    paused: [],
    caps: [],
    flags: [],
    cautions: [],
    asks: [],
    questions: [],
    emergency: [],
    noRunIf: [],
    zones: [],
    weeks: [],
    moved: [],
    notes: [],
    devices: [],
    reports: [],
    moves: [],
  };
  return { ...lists, texts: {}, reminders: { kinds: [], live: 0 }, ...(p as Partial<Plan>) } as Plan;
}

/** A report as this phone keeps it. */
export type Kept = { id: string; order: number; report: Report; told: Told; why?: string };

/** How a session goes that is under way. */
export type Progress = {
  on: string;
  kind: string;
  at: number;
  results: Record<string, Result>;
  /** The walk before the session was done, so the one after can be set against it. */
  walked?: boolean;
  /** What a routine measures of each side before and after it, in centimetres. */
  before?: Sides;
  after?: Sides;
};
export type Sides = Partial<Record<"left" | "right", number>>;
export type Result = {
  sets: number;
  of: number;
  notch: number;
  pain?: number;
  cramp?: number;
  reserve?: number;
  sure?: boolean;
  sore?: number;
  noTime?: boolean;
  couldNot?: boolean;
  ended?: boolean;
  mistakes?: string[];
};
/** A file that another application shared, until it was told or left. */
export type Shared = { name: string; bytes: ArrayBuffer };
/** The most a file may have, as the coach's side takes it from a phone. */
export const sharedMost = 8 << 20;
export type Settings = { sound: boolean; buzz: boolean; voice?: boolean };

interface Shape extends DBSchema {
  kv: { key: string; value: unknown };
  reports: { key: string; value: Kept; indexes: { order: number } };
}

/** What the phone keeps; where the browser keeps nothing it lives as long as the page. */
export interface Store {
  lasting: boolean;
  get<T>(key: string): Promise<T | undefined>;
  put(key: string, value: unknown): Promise<void>;
  drop(key: string): Promise<void>;
  reports(): Promise<Kept[]>;
  putReport(k: Kept): Promise<void>;
  dropReport(id: string): Promise<void>;
  clear(): Promise<void>;
}

/** Written through to the disk before it counts as kept. */
const surely = { durability: "strict" } as const;

function lasting(db: IDBPDatabase<Shape>): Store {
  return {
    lasting: true,
    get: <T>(key: string) => db.get("kv", key) as Promise<T | undefined>,
    put: async (key, value) => {
      const tx = db.transaction("kv", "readwrite", surely);
      await Promise.all([tx.store.put(value, key), tx.done]);
    },
    drop: (key) => db.delete("kv", key),
    reports: () => db.getAllFromIndex("reports", "order"),
    putReport: async (k) => {
      const tx = db.transaction("reports", "readwrite", surely);
      await Promise.all([tx.store.put(k), tx.done]);
    },
    dropReport: (id) => db.delete("reports", id),
    clear: async () => {
      await db.clear("kv");
      await db.clear("reports");
    },
  };
}

export function passing(): Store {
  const kv = new Map<string, unknown>();
  const reports = new Map<string, Kept>();
  return {
    lasting: false,
    get: async <T>(key: string) => kv.get(key) as T | undefined,
    put: async (key, value) => void kv.set(key, value),
    drop: async (key) => void kv.delete(key),
    reports: async () => [...reports.values()].sort((a, b) => a.order - b.order),
    putReport: async (k) => void reports.set(k.id, k),
    dropReport: async (id) => void reports.delete(id),
    clear: async () => {
      kv.clear();
      reports.clear();
    },
  };
}

/** How long the phone's storage is waited for: what waits in it is worth some time. */
const storageTime = 8_000;

export async function openStore(name = "notchback-pocket"): Promise<Store> {
  try {
    const opening = openDB<Shape>(name, 1, {
      upgrade: (d) => {
        d.createObjectStore("kv");
        d.createObjectStore("reports", { keyPath: "id" }).createIndex("order", "order");
      },
    });
    // A storage that does not answer counts as one that keeps nothing, and the screen says so.
    const db = await within(storageTime, opening);
    return db ? lasting(db) : passing();
  } catch {
    return passing();
  }
}
