import { t } from "@lingui/core/macro";
import { useEffect, useRef, useState } from "react";
import { TransitionCadenceWeek as limits } from "../../api/limits";
import { useKeys } from "../../parts/keys";
import { audio, beep, once } from "./timer";

/** A metronome with an accent; it goes on while values are typed. */
export function Metronome({ start }: { start: number }) {
  const [bpm, setBpm] = useState(start);
  const [accent, setAccent] = useState(2);
  const [on, setOn] = useState(false);
  const state = useRef({ bpm, accent });
  state.current = { bpm, accent };
  useEffect(() => {
    if (!on) return;
    const ctx = audio();
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
  useKeys([{ show: "m", does: t`the beat on or off`, on: { m: once(() => setOn((x) => !x)) } }]);
  return (
    <>
      <button type="button" className="btn" aria-pressed={on} onClick={() => setOn(!on)}>
        {on ? t`Stop the beat` : t`Beat`} <kbd className="key">m</kbd>
      </button>
      <label className="flex items-center gap-2">
        <input
          type="range"
          className="accent-[var(--ink)]"
          min={limits.beatSpm.minimum}
          max={limits.beatSpm.maximum}
          value={bpm}
          onChange={(e) => setBpm(Number(e.target.value))}
          aria-label={t`Beats a minute`}
        />
        <span className="w-20">{t`${bpm} a min`}</span>
      </label>
      <label>
        {t`accent every `}
        <select
          className="field inline-block w-20"
          value={accent}
          onChange={(e) => setAccent(Number(e.target.value))}
        >
          <option value={0}>{t`none`}</option>
          <option value={2}>2</option>
          <option value={3}>3</option>
          <option value={4}>4</option>
        </select>
      </label>
    </>
  );
}

export const startBeat: Record<string, number> = {
  cadence: 170,
  "single-leg-raise": 60,
  "bent-knee-raise": 60,
  "shin-raise": 60,
};
