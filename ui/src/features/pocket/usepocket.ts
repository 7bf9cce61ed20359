import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { newId } from "../../api/id";
import { take } from "../../language";
import { inUnits, unitsAre } from "../../parts/measures";
import {
  type Kept,
  openStore,
  type Plan,
  type Progress,
  type Report,
  type Settings,
  type Shared,
  type Store,
  whole,
} from "./keep";
import { Away, fetchPlan, leave, SignedOut, send, zone } from "./link";
import { Outbox } from "./outbox";
import { dateOf, localOf } from "./rules";

export type What = Omit<Report, "id" | "at" | "zone" | "on"> & { on?: string };

const usual: Settings = { sound: true, buzz: true };
/** A plan with its distances and weights as the runner reads them. */
function asRead(p: Plan): Plan {
  unitsAre(p.units);
  return inUnits(p);
}

/** How often the plan is asked for again while the page is open, in ms. */
const again = 5 * 60_000;

/** Everything the phone's views need: the plan, what is kept here, and how to tell. */
export function usePocket(arriving: boolean) {
  const [store, setStore] = useState<Store>();
  const [plan, setPlan] = useState<Plan>();
  const [kept, setKept] = useState<Kept[]>([]);
  const [out, setOut] = useState(false);
  const [online, setOnline] = useState(true);
  const [settings, setSettings] = useState(usual);
  const [progress, setProgress] = useState<Progress | null>();
  const [full, setFull] = useState(false);
  const [now, setNow] = useState(() => new Date());
  const [shared, setShared] = useState<Shared>();
  const box = useRef<Outbox>(undefined);

  const refresh = useCallback(async () => {
    const s = storeRef.current;
    try {
      const p = whole(await fetchPlan());
      if (!p) return; // a server of another edition: the plan that is here holds
      setPlan(asRead(p));
      setOnline(true);
      setOut(false);
      await s?.put("plan", p);
      await box.current?.hear(p.reports);
      if (!(await s?.get<Progress>("progress"))) take(p.language); // never in the middle of a session
    } catch (e) {
      if (e instanceof SignedOut) setOut(true);
      else if (e instanceof Away) setOnline(false);
    }
  }, []);
  const storeRef = useRef<Store>(undefined);

  useEffect(() => {
    void (async () => {
      const s = await openStore();
      storeRef.current = s;
      box.current = new Outbox(
        s,
        async (list) => {
          const a = await send(list);
          setOnline(a.is !== "away");
          return a;
        },
        (list, isOut) => {
          setKept(list);
          if (isOut) setOut(true);
        },
        () => void refresh(),
      );
      setSettings({ ...usual, ...(await s.get<Settings>("settings")) });
      setProgress((await s.get<Progress>("progress")) ?? null);
      setShared(await s.get<Shared>("shared"));
      const p = whole(await s.get<Plan>("plan"));
      if (p) setPlan(asRead(p));
      await box.current.show();
      setStore(s);
      await box.current.pump();
      if (!arriving) await refresh(); // who comes by a link has no plan yet
    })();
    const wake = () => {
      setNow(new Date());
      if (document.visibilityState === "visible") {
        void box.current?.pump();
        void refresh();
      }
    };
    const on = () => {
      void box.current?.pump();
      void refresh();
    };
    const tick = setInterval(() => setNow(new Date()), 60_000);
    const look = setInterval(wake, again);
    addEventListener("online", on);
    document.addEventListener("visibilitychange", wake);
    return () => {
      clearInterval(tick);
      clearInterval(look);
      removeEventListener("online", on);
      document.removeEventListener("visibilitychange", wake);
    };
  }, [refresh, arriving]);

  const today = dateOf(now);
  /** Writes a report here, then sends it; true once it is safe. */
  const tell = useCallback(async (what: What): Promise<boolean> => {
    const at = new Date();
    try {
      await box.current?.add({
        on: dateOf(at),
        ...what,
        id: newId(),
        at: at.toISOString(),
        zone: zone(),
      } as Report);
      setFull(false);
      return true;
    } catch {
      setFull(true);
      return false;
    }
  }, []);
  const step = useCallback(async (p: Progress | null) => {
    setProgress(p);
    try {
      if (p) await storeRef.current?.put("progress", p);
      else await storeRef.current?.drop("progress");
    } catch {
      setFull(true);
    }
  }, []);
  const local = useMemo(() => (plan ? localOf(plan, kept) : undefined), [plan, kept]);
  return {
    ready: !!store,
    lasting: store?.lasting ?? true,
    plan,
    kept,
    local,
    out,
    online,
    full,
    now,
    today,
    settings,
    progress,
    tell,
    step,
    refresh,
    shared,
    /** The shared file was told, or is left. */
    unshare: () => {
      setShared(undefined);
      void storeRef.current?.drop("shared");
    },
    drop: (id: string) => box.current?.drop(id),
    set: (s: Settings) => {
      setSettings(s);
      void storeRef.current?.put("settings", s);
    },
    /** Signs this phone out and takes everything off it. */
    leave: async () => {
      await leave().catch(() => {});
      await storeRef.current?.clear();
      location.replace("/pocket");
    },
  };
}

export type Pocket = ReturnType<typeof usePocket>;
export type Ready = Pocket & { plan: Plan; local: NonNullable<Pocket["local"]> };
