import { useEffect, useRef, useState } from "react";
import { buzz, tone, wake } from "./beat";
import { paceOf, placeIn } from "./course";
import type { Settings } from "./keep";
import type { Step } from "./rules";

const words = { up: "up", hold: "hold", down: "down, slowly", rest: "rest" };

/** Counts a set by its tempo, a hold down, or leaves counting to the runner. */
export function Count({ step, settings, lead = 3 }: { step: Step; settings: Settings; lead?: number }) {
  const pace = paceOf(step);
  const [since, setSince] = useState<number>();
  const [now, setNow] = useState(0);
  const last = useRef("");
  useEffect(() => {
    if (since === undefined) return;
    const t = setInterval(() => setNow(performance.now()), 80);
    return () => clearInterval(t);
  }, [since]);
  const seconds = since === undefined ? 0 : Math.max(0, (now - since) / 1000 - lead);
  const before = since !== undefined && (now - since) / 1000 < lead;
  const at = pace.is === "reps" ? placeIn(pace, seconds) : undefined;
  const left = pace.is === "hold" ? Math.max(0, Math.ceil(pace.seconds - seconds)) : 0;
  useEffect(() => {
    if (since === undefined) return;
    const mark = before
      ? `wait ${Math.ceil(lead - (now - since) / 1000)}`
      : at
        ? `${at.rep} ${at.part} ${at.done}`
        : `${left}`;
    if (mark === last.current) return;
    last.current = mark;
    if (before) tone(settings.sound, 440);
    else if (at?.done || (pace.is === "hold" && left === 0)) {
      tone(settings.sound, 990, 0.4);
      buzz(settings.buzz, [120, 80, 120]);
    } else if (at) {
      tone(settings.sound, at.part === "up" ? 880 : at.part === "down" ? 560 : 700);
      if (at.part === "up") buzz(settings.buzz, 30);
    } else if (left <= 3 || left % 10 === 0) tone(settings.sound, 700);
  }, [now, since, before, at, left, lead, pace.is, settings.sound, settings.buzz]);

  if (pace.is === "count") return <p className="display py-6 text-center text-[30px]">{pace.words}</p>;
  const big =
    since === undefined
      ? pace.is === "reps"
        ? pace.reps
        : pace.seconds
      : before
        ? Math.ceil(lead - (now - since) / 1000)
        : pace.is === "reps"
          ? (at?.rep ?? 0)
          : left;
  return (
    <div className="text-center">
      <p role="timer" className="display text-[110px] leading-none font-bold">
        {big}
      </p>
      <p className="text-ink-2">{pace.is === "reps" ? `of ${pace.reps}` : "seconds"}</p>
      <p className="min-h-7 text-[18px] font-bold" aria-live="off">
        {since === undefined
          ? ""
          : before
            ? "get ready"
            : at
              ? at.done
                ? "done"
                : words[at.part]
              : left === 0
                ? "done"
                : "hold"}
      </p>
      {since === undefined && (
        <button
          type="button"
          className="btn min-h-12"
          onClick={() => {
            wake();
            const t = performance.now();
            setNow(t);
            setSince(t);
          }}
        >
          Count for me
        </button>
      )}
    </div>
  );
}

/** The pause between two sets, counting down. */
export function Rest({ seconds, settings, done }: { seconds: number; settings: Settings; done: () => void }) {
  const [left, setLeft] = useState(seconds);
  const start = useRef(Date.now());
  const told = useRef(false);
  useEffect(() => {
    const t = setInterval(() => {
      const n = Math.max(0, seconds - Math.floor((Date.now() - start.current) / 1000));
      setLeft(n);
      if (n === 0 && !told.current) {
        told.current = true;
        tone(settings.sound, 880, 0.3);
        buzz(settings.buzz, 200);
      }
    }, 250);
    return () => clearInterval(t);
  }, [seconds, settings]);
  return (
    <div className="py-4 text-center">
      <p>Rest</p>
      <p role="timer" className="display text-[90px] leading-none font-bold">
        {left}
      </p>
      <button type="button" className="btn mt-3 min-h-12" onClick={done}>
        {left === 0 ? "Go on" : "Go on now"}
      </button>
    </div>
  );
}
