import { useCallback, useEffect, useRef, useState } from "react";
import { Problem, type Schema } from "../api/client";
import { plusDays, weekDay } from "../parts/dates";
import { useKeys } from "../parts/keys";
import { Title } from "../parts/marks";
import { type Block, lookAhead } from "./change";
import { runName, sessionName, weekdays } from "./hooks";

type Kind = Schema["SessionView"]["kind"];
export type Move = { kind: Kind; from: string; to: string };
type Held = { kind: Kind; from: string; to: string; by: "pointer" | "keys" };
type Look = { broken: string[]; says: string[] };

const movable = (on: string, b: Block) => on >= b.today && on <= b.endOn && !b.ended;
const chip = (kind: Kind, on: string) => `chip-${kind}-${on}`;

/**
 * Weeks down, days across. A session is carried to another day by mouse, by
 * touch (press and hold) or by keys (m, arrows, Enter); what that would break is
 * said while it is still in the hand.
 */
export function Weeks({
  b,
  day,
  onDay,
  onMove,
}: {
  b: Block;
  day: string;
  onDay: (on: string) => void;
  onMove: (m: Move) => void;
}) {
  const [held, setHeld] = useState<Held | null>(null);
  const [look, setLook] = useState<Look | null>(null);
  const seen = useRef(new Map<string, Promise<Look>>());
  const now = useRef<Held | null>(null);
  now.current = held;

  // biome-ignore lint/correctness/useExhaustiveDependencies: a new state of the block makes old looks worthless
  useEffect(() => seen.current.clear(), [b.revision, b.id]);

  const over = useCallback(
    (h: Held) => {
      setHeld(h);
      setLook(null);
      if (h.from === h.to) return;
      const key = `${h.kind}${h.from}${h.to}`;
      let ask = seen.current.get(key);
      if (!ask) {
        ask = lookAhead(b, { kind: "move", session: h.kind, from: h.from, to: h.to }).then(
          (x) => ({ broken: x.broken, says: x.consequences }),
          (e: unknown) => ({
            broken: [
              e instanceof Problem ? (Object.values(e.fields)[0] ?? e.message) : "not known: no connection",
            ],
            says: [],
          }),
        );
        seen.current.set(key, ask);
      }
      void ask.then((x) => {
        const n = now.current;
        if (n && n.kind === h.kind && n.from === h.from && n.to === h.to) setLook(x);
      });
    },
    [b],
  );
  const drop = useCallback(() => {
    const h = now.current;
    setHeld(null);
    setLook(null);
    if (h && h.to !== h.from) onMove({ kind: h.kind, from: h.from, to: h.to });
  }, [onMove]);
  const cancel = useCallback(() => {
    const h = now.current;
    setHeld(null);
    setLook(null);
    if (h?.by === "keys") requestAnimationFrame(() => document.getElementById(chip(h.kind, h.from))?.focus());
  }, []);

  const carry = (by: number) => () => {
    if (held?.by !== "keys") return false;
    const to = plusDays(held.to, by);
    if (movable(to, b)) over({ ...held, to });
  };
  const put = () => {
    if (held?.by !== "keys") return false;
    if (held.to === held.from) cancel();
    else drop();
  };
  useKeys(
    [
      {
        show: "← → ↑ ↓",
        does: "carry what is picked up",
        on: { ArrowLeft: carry(-1), ArrowRight: carry(1), ArrowUp: carry(-7), ArrowDown: carry(7) },
      },
      { show: "Enter Space", does: "put it down", on: { Enter: put, Space: put } },
      {
        show: "Esc",
        does: "leave it where it was",
        on: {
          Escape: cancel,
          Tab: () => {
            if (held?.by === "keys") cancel();
            return false;
          },
        },
      },
    ],
    { when: !!held, capture: true },
  );

  const status = !held
    ? ""
    : held.to === held.from
      ? `${sessionName[held.kind]} of ${weekDay(held.from)} picked up. Arrows carry it, Enter puts it down, Escape leaves it.`
      : look
        ? `${weekDay(held.to)}: ${look.broken.length ? look.broken.join("; ") : ["every rule keeps", ...look.says].join("; ")}`
        : `${weekDay(held.to)} …`;

  return (
    <section aria-label="Weeks" className="min-w-0">
      <Title aside="drag a session, or press m on it">Weeks</Title>
      <p
        role="status"
        className={`mb-2 min-h-6 text-[14px] ${look?.broken.length ? "font-semibold text-clay" : ""}`}
      >
        {look && look.broken.length > 0 && <span aria-hidden="true">▲ </span>}
        {status}
      </p>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard */}
      <section className="overflow-x-auto" tabIndex={0} aria-label="Weeks and days, scrolls sideways">
        <table className="w-full min-w-[46rem] table-fixed border-collapse text-[13px]">
          <thead>
            <tr>
              <th scope="col" className="w-[4.6rem] py-1 text-left font-semibold">
                Week
              </th>
              {weekdays.map((n) => (
                <th key={n} scope="col" className="px-1 py-1 text-left font-semibold">
                  {n}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {b.weeks.map((w) => (
              <tr key={w.number} className="border-t border-rule align-top">
                <th scope="row" className="py-1 pr-1 text-left font-normal">
                  <b className="display text-[17px]">{w.number}</b>
                  {w.label && <b className="block">{w.label}</b>}
                  <span className="block text-ink-2">
                    {w.planned} of {w.free} min
                  </span>
                </th>
                {w.days.map((d) => (
                  <Cell
                    key={d.on}
                    d={d}
                    b={b}
                    chosen={d.on === day}
                    held={held}
                    look={look}
                    onDay={onDay}
                    over={over}
                    drop={drop}
                    cancel={cancel}
                  />
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </section>
    </section>
  );
}

function Cell({
  d,
  b,
  chosen,
  held,
  look,
  onDay,
  over,
  drop,
  cancel,
}: {
  d: Schema["DayView"];
  b: Block;
  chosen: boolean;
  held: Held | null;
  look: Look | null;
  onDay: (on: string) => void;
  over: (h: Held) => void;
  drop: () => void;
  cancel: () => void;
}) {
  const target = held && held.to === d.on && held.to !== held.from;
  const edge = target
    ? look?.broken.length
      ? "outline-3 -outline-offset-3 outline-clay"
      : "outline-3 -outline-offset-3 outline-pine"
    : chosen
      ? "bg-paper outline-2 -outline-offset-2 outline-ink"
      : "";
  const past = d.on < b.today;
  const ran = d.race ? "race" : d.run && d.in ? `${runName[d.run]} run` : "";
  return (
    <td data-day={d.on} className={`border-l border-rule px-1 pt-1 pb-2 ${edge}`}>
      <button
        type="button"
        className="flex min-h-6 w-full items-baseline justify-between gap-1 text-left text-ink-2 hover:underline"
        aria-label={`${Number(d.on.slice(8))}${d.on === b.today ? " today" : ""} ${ran}: show ${weekDay(d.on)}`}
        aria-pressed={chosen}
        onClick={() => onDay(d.on)}
      >
        <span className={d.on === b.today ? "font-bold text-ink" : ""}>
          {Number(d.on.slice(8))}
          {d.on === b.today && " today"}
        </span>{" "}
        <span className={d.race ? "font-bold text-ink" : ""}>{ran}</span>
      </button>
      {d.logged && (
        <p className="border-l-[3px] border-pine bg-pine-wash px-1.5 font-semibold text-pine">done</p>
      )}
      {!d.logged &&
        d.sessions.map((s) => (
          <Chip
            key={s.kind}
            s={s}
            on={d.on}
            can={movable(d.on, b)}
            past={past}
            lifted={held?.kind === s.kind && held.from === d.on}
            b={b}
            onDay={onDay}
            over={over}
            drop={drop}
            cancel={cancel}
          />
        ))}
      {d.ramp.length > 0 && (
        <p
          className="mt-0.5 border-l-[3px] border-pine px-1.5 text-[13px]"
          title={d.ramp.map((x) => x.words).join("\n")}
        >
          {d.ramp.every((x) => x.stage === "home")
            ? `home ${d.ramp[0]?.minutes}′`
            : d.ramp
                .filter((x) => x.stage !== "home")
                .map((x) => short[x.stage])
                .join(", ")}
        </p>
      )}
      {d.retest && (
        <p
          className="mt-0.5 border-l-[3px] border-ink px-1.5 font-semibold"
          title={`Test again: ${d.retest}`}
        >
          test again
        </p>
      )}
      {target && held && (
        <p className="mt-0.5 border-[1.5px] border-dashed border-ink px-1.5">{sessionName[held.kind]} here</p>
      )}
    </td>
  );
}

const short: Record<Schema["RampDay"]["stage"], string> = {
  home: "home",
  walk: "bare walk",
  strength: "bare work",
  drills: "strides",
  run: "thin shoes",
  bare: "bare run",
  cadence: "beat",
  cue: "cue",
};

const slack = 6; // px a pointer may wander before it is a drag
const pressMs = 260; // a touch rests this long before it lifts

function Chip({
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
  const dayAt = (x: number, y: number) => {
    const cell = document.elementFromPoint(x, y)?.closest<HTMLElement>("[data-day]");
    const to = cell?.dataset.day;
    return to && movable(to, b) ? to : on;
  };
  const lift = () => {
    if (!start.current) return;
    start.current.dragging = true;
    dragged.current = true;
    over({ kind: s.kind, from: on, to: on, by: "pointer" });
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
      id={chip(s.kind, on)}
      type="button"
      title={s.doses
        .map((x) => `${x.name}: ${x.same ? x.left : `left ${x.left}, right ${x.right}`}`)
        .join("\n")}
      aria-label={`${sessionName[s.kind]}${s.moved ? " ↷" : ""} ${s.minutes > 0 ? `${s.minutes}′` : ""}, ${weekDay(on)}, ${s.doses.length} ladders${s.moved ? `, moved from ${weekDay(s.moved)}` : ""}${can ? "; m moves it" : ""}`}
      className={`mt-0.5 flex min-h-6 w-full touch-manipulation items-baseline justify-between gap-1 border-l-[3px] px-1.5 py-0.5 text-left select-none ${s.kind === "main" ? "border-ink bg-paper font-semibold" : "border-edge"} ${past ? "text-ink-2" : ""} ${lifted ? "opacity-40" : ""} ${can ? "cursor-grab" : ""}`}
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
          over({ kind: s.kind, from: on, to: on, by: "keys" });
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
        if (st.dragging) over({ kind: s.kind, from: on, to: dayAt(e.clientX, e.clientY), by: "pointer" });
      }}
      onPointerUp={() => stop(true)}
      onPointerCancel={() => stop(false)}
      onContextMenu={(e) => start.current?.dragging && e.preventDefault()}
    >
      <span className="truncate">
        {sessionName[s.kind]}
        {s.moved && <span title={`moved from ${weekDay(s.moved)}`}> ↷</span>}
      </span>{" "}
      {s.minutes > 0 && <span className="shrink-0">{s.minutes}′</span>}
    </button>
  );
}
