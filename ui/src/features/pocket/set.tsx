import { t } from "@lingui/core/macro";
import { useEffect, useRef, useState } from "react";
import type { Schema } from "../../api/client";
import { Playing, shareAt } from "../../parts/motion";
import { buzz, say, tone, wake } from "./beat";
import { callAt, paceOf, placeIn, shownAt } from "./course";
import type { Settings } from "./keep";
import type { Step } from "./rules";

const words = { up: t`up`, hold: t`hold`, down: t`down, slowly`, rest: t`rest` };

type Text = Schema["PocketText"];

/**
 * Counts a set by its tempo, a hold down, or leaves counting to the runner. A hold may be
 * broken into pieces, its total counts; one that is called out is held through.
 */
export function Count({
  step,
  settings,
  word = t`hold`,
  text,
  lead = 3,
}: {
  step: Step;
  settings: Settings;
  word?: string;
  /** What is drawn while it counts. */
  text?: Text;
  lead?: number;
}) {
  const pace = paceOf(step);
  const [since, setSince] = useState<number>();
  const [held, setHeld] = useState(0);
  const [now, setNow] = useState(0);
  const last = useRef("");
  useEffect(() => {
    if (since === undefined) return;
    const it = setInterval(() => setNow(performance.now()), 80);
    return () => clearInterval(it);
  }, [since]);
  const running = since !== undefined;
  const gone = running ? (now - since) / 1000 : 0;
  const seconds = held + Math.max(0, gone - lead);
  const wait = running && gone < lead ? Math.ceil(lead - gone) : 0;
  const at = pace.is === "reps" ? placeIn(pace, seconds) : undefined;
  const left = pace.is === "hold" ? Math.max(0, Math.ceil(pace.seconds - seconds)) : 0;
  const call = pace.is === "hold" && running && !wait ? callAt(step, seconds) : undefined;
  const called = call ? `${call.word} ${call.effort} %` : "";
  const over = pace.is === "reps" ? !!at?.done : left === 0;
  useEffect(() => {
    if (!running) return;
    const mark = wait ? t`wait ${wait}` : at ? `${at.rep} ${at.part} ${at.done}` : `${left} ${called}`;
    if (mark === last.current) return;
    const newCall = called !== "" && !last.current.endsWith(called);
    last.current = mark;
    if (wait) tone(settings.sound, 440);
    else if (over) {
      tone(settings.sound, 990, 0.4);
      buzz(settings.buzz, [120, 80, 120]);
      say(!!settings.voice, t`done`);
    } else if (at) {
      tone(settings.sound, at.part === "up" ? 880 : at.part === "down" ? 560 : 700);
      if (at.part === "up") {
        buzz(settings.buzz, 30);
        say(!!settings.voice, `${at.rep}`);
      }
    } else if (newCall) {
      tone(settings.sound, 880);
      buzz(settings.buzz, 30);
      say(!!settings.voice, called);
    } else if (!called && (left <= 3 || left % 10 === 0)) {
      tone(settings.sound, 700);
      say(!!settings.voice, `${left}`);
    }
  }, [running, wait, at, left, called, over, settings]);

  // Where the movement is, asked at every picture of the screen.
  const share = () => {
    if (pace.is === "count") return shareAt(shownAt(step), performance.now() / 1000);
    const s = since === undefined ? 0 : held + (performance.now() - since) / 1000 - lead;
    if (since === undefined) return held > 0 || pace.is === "hold" ? 1 : 0;
    if (s < 0) return pace.is === "hold" ? 1 : 0;
    return pace.is === "hold"
      ? 1
      : s >= (pace.up + pace.hold + pace.down + pace.low) * pace.reps
        ? 0
        : shareAt(pace, s);
  };
  const drawn = <Playing motion={text?.motion} picture={text?.picture} share={share} size={168} />;
  if (pace.is === "count")
    return (
      <div className="flex flex-col items-center">
        {drawn}
        <p className="display py-4 text-center text-[30px]">{pace.words}</p>
      </div>
    );
  const big = wait || (pace.is === "hold" ? left : running ? (at?.rep ?? 0) : pace.reps);
  const begin = () => {
    wake();
    const it = performance.now();
    setNow(it);
    setSince(it);
  };
  const broken = !running && held > 0;
  return (
    <div className="flex flex-wrap items-center justify-center gap-x-4 text-center">
      {drawn}
      <div className="min-w-36 flex-1">
        <p role="timer" className="display text-[110px] leading-none font-bold">
          {big}
        </p>
        <p className="text-ink-2">{pace.is === "reps" ? t`of ${pace.reps}` : t`seconds`}</p>
        <p className="min-h-7 text-[18px] font-bold" aria-live="off">
          {broken
            ? t`the total counts`
            : !running
              ? ""
              : wait
                ? t`get ready`
                : over
                  ? t`done`
                  : at
                    ? words[at.part]
                    : called || word}
        </p>
        {!running && (
          <button type="button" className="btn min-h-12" onClick={begin}>
            {broken ? t`Go on` : t`Count for me`}
          </button>
        )}
        {running && pace.is === "hold" && !wait && !over && !step.calls?.length && (
          <button
            type="button"
            className="btn min-h-12"
            onClick={() => {
              setHeld(seconds);
              setSince(undefined);
            }}
          >
            {t`Short break`}
          </button>
        )}
      </div>
    </div>
  );
}

/** The pause between two sets, counting down. */
export function Rest({ seconds, settings, done }: { seconds: number; settings: Settings; done: () => void }) {
  const [left, setLeft] = useState(seconds);
  const start = useRef(Date.now());
  const told = useRef(false);
  useEffect(() => {
    const it = setInterval(() => {
      const n = Math.max(0, seconds - Math.floor((Date.now() - start.current) / 1000));
      setLeft(n);
      if (n === 0 && !told.current) {
        told.current = true;
        tone(settings.sound, 880, 0.3);
        buzz(settings.buzz, 200);
      }
    }, 250);
    return () => clearInterval(it);
  }, [seconds, settings]);
  return (
    <div className="py-4 text-center">
      <p>{t`Rest`}</p>
      <p role="timer" className="display text-[90px] leading-none font-bold">
        {left}
      </p>
      <button type="button" className="btn mt-3 min-h-12" onClick={done}>
        {left === 0 ? t`Go on` : t`Go on now`}
      </button>
    </div>
  );
}
