import { t } from "@lingui/core/macro";
import { useEffect, useRef } from "react";
import type { Schema } from "../../api/client";
import { weekDay } from "../../parts/dates";
import type { Block } from "./change";
import { sessionName } from "./hooks";

export type Kind = Schema["SessionView"]["kind"];

export type Held = {
  kind: Kind;
  routine?: string;
  name: string;
  from: string;
  to: string;
  by: "pointer" | "keys";
};

/** What a session is called in the weeks: a routine by its own name. */
export const called = (s: Schema["SessionView"]) => (s.routine ? s.name : sessionName[s.kind]);

export const movable = (on: string, b: Block) => on >= b.today && on <= b.endOn && !b.ended;

export const chip = (kind: Kind, on: string, routine = "") => `chip-${kind}-${routine}${on}`;

export const short: Record<Schema["RampDay"]["stage"], string> = {
  home: "home",
  walk: t`bare walk`,
  strength: t`barefoot strength`,
  drills: "strides",
  run: t`minimal shoes`,
  bare: t`bare run`,
  cadence: "beat",
  cue: "cue",
};

const slack = 6; // px a pointer may wander before it is a drag

const pressMs = 260; // a touch rests this long before it lifts

export function Chip({
  s,
  on,
  can,
  past,
  lifted,
  b,
  onDay,
  over,
  drop,
  cancel,
}: {
  s: Schema["SessionView"];
  on: string;
  can: boolean;
  past: boolean;
  lifted: boolean;
  b: Block;
  onDay: (on: string) => void;
  over: (h: Held) => void;
  drop: () => void;
  cancel: () => void;
}) {
  const start = useRef<{ x: number; y: number; dragging: boolean; timer: number } | null>(null);
  const dragged = useRef(false);
  const what = { kind: s.kind, routine: s.routine?.id, name: called(s) };
  const dayAt = (x: number, y: number) => {
    const cell = document.elementFromPoint(x, y)?.closest<HTMLElement>("[data-day]");
    const to = cell?.dataset.day;
    return to && movable(to, b) ? to : on;
  };
  const lift = () => {
    if (!start.current) return;
    start.current.dragging = true;
    dragged.current = true;
    over({ ...what, from: on, to: on, by: "pointer" });
  };
  const stop = (put: boolean) => {
    const st = start.current;
    start.current = null;
    if (!st) return;
    clearTimeout(st.timer);
    if (st.dragging) (put ? drop : cancel)();
  };
  const ref = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    const el = ref.current;
    // A lifted chip must not scroll the page under the finger.
    const hold = (e: TouchEvent) => {
      if (start.current?.dragging) e.preventDefault();
    };
    el?.addEventListener("touchmove", hold, { passive: false });
    return () => el?.removeEventListener("touchmove", hold);
  }, []);
  return (
    <button
      ref={ref}
      id={chip(s.kind, on, s.routine?.id)}
      type="button"
      title={s.doses
        .map((x) => `${x.name}: ${x.same ? x.left : t`left ${x.left}, right ${x.right}`}`)
        .join("\n")}
      aria-label={`${called(s)}${s.moved ? " ↷" : ""} ${s.minutes > 0 ? `${s.minutes}′` : ""}, ${weekDay(on)}, ${s.doses.length} ${s.routine ? "parts" : "ladders"}${s.moved ? t`, moved from ${weekDay(s.moved)}` : ""}${can ? "; m moves it" : ""}`}
      className={`mt-0.5 flex min-h-6 w-full touch-manipulation items-baseline justify-between gap-1 border-l-[3px] px-1.5 py-0.5 text-left select-none ${s.kind === "main" || s.kind === "routine" ? "border-ink bg-paper font-semibold" : "border-edge"} ${past ? "text-ink-2" : ""} ${lifted ? "opacity-40" : ""} ${can ? "cursor-grab" : ""}`}
      onClick={() => {
        if (dragged.current) {
          dragged.current = false;
          return;
        }
        onDay(on);
      }}
      onKeyDown={(e) => {
        if (e.key === "m" && can && !e.ctrlKey && !e.metaKey && !e.altKey) {
          e.preventDefault();
          e.stopPropagation();
          over({ ...what, from: on, to: on, by: "keys" });
        }
      }}
      onPointerDown={(e) => {
        dragged.current = false;
        if (!can || e.button !== 0) return;
        start.current = {
          x: e.clientX,
          y: e.clientY,
          dragging: false,
          timer: e.pointerType === "touch" ? window.setTimeout(lift, pressMs) : 0,
        };
        e.currentTarget.setPointerCapture(e.pointerId);
      }}
      onPointerMove={(e) => {
        const st = start.current;
        if (!st) return;
        const far = Math.hypot(e.clientX - st.x, e.clientY - st.y) > slack;
        if (!st.dragging && far) {
          if (e.pointerType === "touch") stop(false);
          else lift();
        }
        if (st.dragging) over({ ...what, from: on, to: dayAt(e.clientX, e.clientY), by: "pointer" });
      }}
      onPointerUp={() => stop(true)}
      onPointerCancel={() => stop(false)}
      onContextMenu={(e) => start.current?.dragging && e.preventDefault()}
    >
      <span className="min-w-0 [overflow-wrap:anywhere]">
        {called(s)}
        {s.moved && <span title={t`moved from ${weekDay(s.moved)}`}> ↷</span>}
      </span>{" "}
      {s.minutes > 0 && <span className="shrink-0">{s.minutes}′</span>}
    </button>
  );
}
