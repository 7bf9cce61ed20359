import { type ReactNode, useCallback, useEffect, useRef, useState } from "react";
import { api, need, type Schema } from "../api/client";
import { useKeys } from "../parts/keys";
import { SideName } from "../parts/marks";
import type { Entry, Place } from "./trials";

type Test = Schema["ScreeningTest"];
type Fill = (side: Place, part: Partial<Entry>) => void;

let sound: AudioContext | undefined;
/** A short beep; high for an accent. */
export function beep(high: boolean, at = 0) {
  sound ??= new AudioContext();
  const osc = sound.createOscillator();
  const gain = sound.createGain();
  const t = at || sound.currentTime;
  osc.frequency.value = high ? 1320 : 880;
  gain.gain.setValueAtTime(0.25, t);
  gain.gain.exponentialRampToValueAtTime(0.001, t + 0.07);
  osc.connect(gain).connect(sound.destination);
  osc.start(t);
  osc.stop(t + 0.08);
}

/** A key held down counts once. */
const once = (fn: () => void) => (e: KeyboardEvent) => {
  if (!e.repeat) fn();
};

function Sides({ test, side, set }: { test: Test; side: Place; set: (s: Place) => void }) {
  if (!test.sided) return null;
  return (
    <fieldset className="flex gap-1">
      <legend className="sr-only">Which side</legend>
      {(["left", "right"] as const).map((s) => (
        <button
          key={s}
          type="button"
          aria-pressed={side === s}
          className={`btn min-h-9 px-3 ${side === s ? "outline-3 outline-ink" : ""}`}
          onClick={() => set(s)}
        >
          <SideName side={s} />
        </button>
      ))}
    </fieldset>
  );
}

const other = (s: Place): Place => (s === "left" ? "right" : s === "right" ? "left" : s);

/** Stopwatch: Space starts and stops. A hold beeps every ten seconds. */
function Timer({ test, fill, hold }: { test: Test; fill: Fill; hold: boolean }) {
  const [side, setSide] = useState<Place>(test.sided ? "left" : "both");
  const [from, setFrom] = useState<number | null>(null);
  const [shown, setShown] = useState(0);
  const beeped = useRef(0);
  useEffect(() => {
    if (from === null) return;
    const id = setInterval(() => {
      const s = (performance.now() - from) / 1000;
      setShown(s);
      if (hold && Math.floor(s / 10) > beeped.current) {
        beeped.current = Math.floor(s / 10);
        beep(beeped.current % 3 === 0);
      }
    }, 50);
    return () => clearInterval(id);
  }, [from, hold]);
  const toggle = useCallback(() => {
    if (from === null) {
      beeped.current = 0;
      setShown(0);
      setFrom(performance.now());
      if (hold) beep(true);
      return;
    }
    const s = Math.min(test.max, (performance.now() - from) / 1000);
    setFrom(null);
    setShown(s);
    fill(side, { text: s.toFixed(1) });
    setSide(other(side));
  }, [from, hold, side, fill, test.max]);
  useKeys([{ show: "Space", does: "start or stop the timer", on: { Space: once(toggle) } }]);
  return (
    <>
      <Sides test={test} side={side} set={setSide} />
      <output className="display w-24 text-right text-[32px] leading-none font-semibold" aria-live="off">
        {shown.toFixed(1)}
      </output>
      <span className="text-ink-2">s</span>
      <button type="button" className="btn btn-main min-w-32" onClick={toggle}>
        {from === null ? "Start" : "Stop"} <kbd className="key text-ink">Space</kbd>
      </button>
    </>
  );
}

/** A 15-second window: count the steps with t or by hand, then type the count. */
function Count15({ fill }: { fill: Fill }) {
  const [left, setLeft] = useState<number | null>(null);
  const [n, setN] = useState(0);
  const [typed, setTyped] = useState("");
  useEffect(() => {
    if (left === null || left <= 0) return;
    const id = setTimeout(() => {
      setLeft(left - 1);
      if (left === 1) beep(true);
    }, 1000);
    return () => clearTimeout(id);
  }, [left]);
  const start = () => {
    setN(0);
    setTyped("");
    setLeft(15);
    beep(false);
  };
  useKeys([
    { show: "Space", does: "start the count", on: { Space: once(start) } },
    { show: "t", does: "a step", on: { t: once(() => left !== null && left > 0 && setN((x) => x + 1)) } },
  ]);
  const steps = typed ? Number(typed) : n;
  return (
    <>
      <button type="button" className="btn" onClick={start}>
        {left === null ? "Start 15 s" : left > 0 ? `${left} s left` : "Again"}{" "}
        <kbd className="key">Space</kbd>
      </button>
      <button type="button" className="btn" onClick={() => setN((x) => x + 1)} disabled={!left}>
        Step {n} <kbd className="key">t</kbd>
      </button>
      <label>
        or steps counted{" "}
        <input
          className="field inline-block w-16"
          inputMode="numeric"
          value={typed}
          onChange={(e) => setTyped(e.target.value.replace(/\D/g, ""))}
        />
      </label>
      <button
        type="button"
        className="btn btn-main"
        disabled={!(steps > 0) || (left !== null && left > 0)}
        onClick={() => {
          fill("both", { text: String(steps * 4), resolution: 4 });
          setLeft(null);
          setN(0);
          setTyped("");
        }}
      >
        Take {steps > 0 ? `${steps * 4} spm` : ""}
      </button>
    </>
  );
}

/** Taps along with the steps; the server reduces them. */
function Tap({ fill }: { fill: Fill }) {
  const [times, setTimes] = useState<number[]>([]);
  const [got, setGot] = useState<Schema["MeasureCadence"]>();
  const tap = () => setTimes((t) => [...t, performance.now() / 1000]);
  useKeys([{ show: "t", does: "tap", on: { t: once(tap) } }]);
  useEffect(() => {
    if (times.length < 8 || times.length % 4) return;
    let live = true;
    need(api.POST("/api/compute/cadence-taps", { body: { tapSeconds: times } }))
      .then((c) => live && setGot(c))
      .catch(() => {});
    return () => {
      live = false;
    };
  }, [times]);
  return (
    <>
      <button type="button" className="btn min-w-32" onClick={tap}>
        Tap, {times.length} <kbd className="key">t</kbd>
      </button>
      <output>
        {got
          ? `${got.meanSpm.toFixed(0)} ± ${got.marginSpm.toFixed(1)} spm${got.leftOut ? `, ${got.leftOut} left out` : ""}${got.oneFoot ? " – one foot only?" : ""}`
          : "one tap a step, eight or more"}
      </output>
      <button
        type="button"
        className="btn btn-main"
        disabled={!got}
        onClick={() => {
          if (got)
            fill("both", {
              text: got.meanSpm.toFixed(1),
              resolution: Math.min(60, Math.max(0.1, got.marginSpm)),
            });
          setTimes([]);
          setGot(undefined);
        }}
      >
        Take
      </button>
      <button type="button" className="btn" onClick={() => setTimes([])}>
        From new
      </button>
    </>
  );
}

const BEAT = { least: 30, most: 220 };

/** A metronome with an accent; it goes on while values are typed. */
export function Metronome({ start }: { start: number }) {
  const [bpm, setBpm] = useState(start);
  const [accent, setAccent] = useState(2);
  const [on, setOn] = useState(false);
  const state = useRef({ bpm, accent });
  state.current = { bpm, accent };
  useEffect(() => {
    if (!on) return;
    sound ??= new AudioContext();
    const ctx = sound;
    let next = ctx.currentTime + 0.05;
    let n = 0;
    const id = setInterval(() => {
      while (next < ctx.currentTime + 0.15) {
        beep(state.current.accent > 0 && n % state.current.accent === 0, next);
        next += 60 / state.current.bpm;
        n += 1;
      }
    }, 40);
    return () => clearInterval(id);
  }, [on]);
  useKeys([{ show: "m", does: "the beat on or off", on: { m: once(() => setOn((x) => !x)) } }]);
  return (
    <>
      <button type="button" className="btn" aria-pressed={on} onClick={() => setOn(!on)}>
        {on ? "Stop the beat" : "Beat"} <kbd className="key">m</kbd>
      </button>
      <label className="flex items-center gap-2">
        <input
          type="range"
          className="accent-[var(--ink)]"
          min={BEAT.least}
          max={BEAT.most}
          value={bpm}
          onChange={(e) => setBpm(Number(e.target.value))}
          aria-label="Beats a minute"
        />
        <span className="w-20">{bpm} a min</span>
      </label>
      <label>
        accent every{" "}
        <select
          className="field inline-block w-20"
          value={accent}
          onChange={(e) => setAccent(Number(e.target.value))}
        >
          <option value={0}>none</option>
          <option value={2}>2</option>
          <option value={3}>3</option>
          <option value={4}>4</option>
        </select>
      </label>
    </>
  );
}

/** Two keys: a step beside the line, a step that touches or crosses it. */
function CrossingCounter({ test, fill }: { test: Test; fill: Fill }) {
  const [side, setSide] = useState<Place>("left");
  const [beside, setBeside] = useState(0);
  const [over, setOver] = useState(0);
  useKeys([
    { show: "j", does: "a step beside the line", on: { j: once(() => setBeside((x) => x + 1)) } },
    { show: "k", does: "a step that crosses it", on: { k: once(() => setOver((x) => x + 1)) } },
  ]);
  const of = beside + over;
  return (
    <>
      <Sides test={test} side={side} set={setSide} />
      <button type="button" className="btn" onClick={() => setBeside(beside + 1)}>
        Beside {beside} <kbd className="key">j</kbd>
      </button>
      <button type="button" className="btn" onClick={() => setOver(over + 1)}>
        Crosses {over} <kbd className="key">k</kbd>
      </button>
      <output>{of < 40 ? `${40 - of} more steps` : `${of} steps, enough`}</output>
      <button
        type="button"
        className="btn btn-main"
        disabled={of === 0}
        onClick={() => {
          fill(side, { text: ((100 * over) / of).toFixed(1), count: over, of });
          setBeside(0);
          setOver(0);
          setSide(other(side));
        }}
      >
        Take
      </button>
    </>
  );
}

const names: Record<string, string> = {
  stopwatch: "Stopwatch",
  hold: "Hold timer",
  count15: "Count 15 s",
  tap: "Tap",
  metronome: "Metronome",
  crossing: "Count steps",
};
const startBeat: Record<string, number> = {
  cadence: 170,
  "single-leg-raise": 60,
  "bent-knee-raise": 60,
  "shin-raise": 60,
};

/** The capture aids of a test; one is open at a time. */
export function Aids({
  test,
  open,
  set,
  fill,
}: {
  test: Test;
  open: string;
  set: (aid: string) => void;
  fill: Fill;
}): ReactNode {
  const list = test.aids.filter((a) => names[a]);
  if (list.length === 0) return null;
  const now = open.startsWith(`${test.id}/`) ? open.slice(test.id.length + 1) : "";
  return (
    <>
      <p className="flex flex-wrap justify-center gap-x-2">
        {list.map((a) => (
          <button
            key={a}
            type="button"
            className="btn-quiet text-[13px]"
            aria-expanded={now === a}
            aria-label={`${names[a]}: ${test.name}`}
            onClick={() => set(now === a ? "" : `${test.id}/${a}`)}
          >
            {names[a]}
          </button>
        ))}
      </p>
      {now && (
        <fieldset className="panel fixed inset-x-2 bottom-2 z-30 flex flex-wrap items-center justify-center gap-x-4 gap-y-2 p-3 text-left md:inset-x-10">
          <legend className="sr-only">{`${names[now]}, ${test.name}`}</legend>
          <b className="display">{test.name}</b>
          {now === "stopwatch" && <Timer test={test} fill={fill} hold={false} />}
          {now === "hold" && <Timer test={test} fill={fill} hold />}
          {now === "count15" && <Count15 fill={fill} />}
          {now === "tap" && <Tap fill={fill} />}
          {now === "metronome" && <Metronome start={startBeat[test.id] ?? 60} />}
          {now === "crossing" && <CrossingCounter test={test} fill={fill} />}
          <button type="button" className="btn-quiet" onClick={() => set("")}>
            Close
          </button>
        </fieldset>
      )}
    </>
  );
}
