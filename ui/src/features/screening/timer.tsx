import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useCallback, useEffect, useRef, useState } from "react";
import { api, need, type Schema } from "../../api/client";
import { useKeys } from "../../parts/keys";
import { SideName } from "../../parts/marks";
import type { Entry, Place } from "./trials";

export type Test = Schema["ScreeningTest"];

export type Fill = (side: Place, part: Partial<Entry>) => void;

let context: AudioContext | undefined;

/** The page's one sound, made when it is first asked for. */
export const audio = () => {
  context ??= new AudioContext();
  return context;
};

/** A short beep; high for an accent. */
export function beep(high: boolean, at = 0) {
  const sound = audio();
  const osc = sound.createOscillator();
  const gain = sound.createGain();
  const test = at || sound.currentTime;
  osc.frequency.value = high ? 1320 : 880;
  gain.gain.setValueAtTime(0.25, test);
  gain.gain.exponentialRampToValueAtTime(0.001, test + 0.07);
  osc.connect(gain).connect(sound.destination);
  osc.start(test);
  osc.stop(test + 0.08);
}

/** A key held down counts once. */
export const once = (fn: () => void) => (e: KeyboardEvent) => {
  if (!e.repeat) fn();
};

export function Sides({ test, side, set }: { test: Test; side: Place; set: (s: Place) => void }) {
  if (!test.sided) return null;
  return (
    <fieldset className="flex gap-1">
      <legend className="sr-only">{t`Which side`}</legend>
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

export const other = (s: Place): Place => (s === "left" ? "right" : s === "right" ? "left" : s);

/** Stopwatch: Space starts and stops. A hold beeps every ten seconds. */
export function Timer({ test, fill, hold }: { test: Test; fill: Fill; hold: boolean }) {
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
  useKeys([{ show: "Space", does: t`start or stop the timer`, on: { Space: once(toggle) } }]);
  return (
    <>
      <Sides test={test} side={side} set={setSide} />
      <output className="display w-24 text-right text-[32px] leading-none font-semibold" aria-live="off">
        {shown.toFixed(1)}
      </output>
      <span className="text-ink-2">s</span>
      <button type="button" className="btn btn-main min-w-32" onClick={toggle}>
        {from === null ? t`Start` : t`Stop`} <kbd className="key text-ink">{t`Space`}</kbd>
      </button>
    </>
  );
}

/** Taps along with the steps; the server reduces them. */
export function Tap({ fill }: { fill: Fill }) {
  const [times, setTimes] = useState<number[]>([]);
  const [got, setGot] = useState<Schema["MeasureCadence"]>();
  const tap = () => setTimes((test) => [...test, performance.now() / 1000]);
  useKeys([{ show: "t", does: t`tap`, on: { t: once(tap) } }]);
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
        <Trans>
          Tap, {times.length} <kbd className="key">t</kbd>
        </Trans>
      </button>
      <output>
        {got
          ? t`${got.meanSpm.toFixed(0)} ± ${got.marginSpm.toFixed(1)} spm${got.leftOut ? t`, ${got.leftOut} left out` : ""}${got.oneFoot ? t` – one foot only?` : ""}`
          : t`one tap a step, eight or more`}
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
        {t`Take`}
      </button>
      <button type="button" className="btn" onClick={() => setTimes([])}>
        {t`From new`}
      </button>
    </>
  );
}
