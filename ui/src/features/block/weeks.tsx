import { t } from "@lingui/core/macro";
import { useCallback, useEffect, useRef, useState } from "react";
import { Problem } from "../../api/client";
import { plusDays, weekDay } from "../../parts/dates";
import { useKeys } from "../../parts/keys";
import { Title } from "../../parts/marks";
import { Sideways } from "../../parts/sideways";
import { type Block, lookAhead } from "./change";
import { chip, type Held, type Kind, movable } from "./chip";
import { Cell } from "./daycell";
import { weekdays } from "./hooks";

export type Move = { kind: Kind; routine?: string; name: string; from: string; to: string };

export type Look = { broken: string[]; says: string[] };

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
      const key = `${h.kind}${h.routine}${h.from}${h.to}`;
      let ask = seen.current.get(key);
      if (!ask) {
        ask = lookAhead(b, {
          kind: "move",
          session: h.kind,
          routine: h.routine,
          from: h.from,
          to: h.to,
        }).then(
          (x) => ({ broken: x.broken, says: x.consequences }),
          (e: unknown) => ({
            broken: [
              e instanceof Problem ? (Object.values(e.fields)[0] ?? e.message) : t`not known: no connection`,
            ],
            says: [],
          }),
        );
        seen.current.set(key, ask);
      }
      void ask.then((x) => {
        const n = now.current;
        if (n && n.kind === h.kind && n.routine === h.routine && n.from === h.from && n.to === h.to)
          setLook(x);
      });
    },
    [b],
  );
  const drop = useCallback(() => {
    const h = now.current;
    setHeld(null);
    setLook(null);
    if (h && h.to !== h.from)
      onMove({ kind: h.kind, routine: h.routine, name: h.name, from: h.from, to: h.to });
  }, [onMove]);
  const cancel = useCallback(() => {
    const h = now.current;
    setHeld(null);
    setLook(null);
    if (h?.by === "keys")
      requestAnimationFrame(() => document.getElementById(chip(h.kind, h.from, h.routine))?.focus());
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
        does: t`carry what is picked up`,
        on: { ArrowLeft: carry(-1), ArrowRight: carry(1), ArrowUp: carry(-7), ArrowDown: carry(7) },
      },
      { show: t`Enter Space`, does: t`put it down`, on: { Enter: put, Space: put } },
      {
        show: "Esc",
        does: t`leave it where it was`,
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
      ? t`${held.name} of ${weekDay(held.from)} picked up. Arrows carry it, Enter puts it down, Escape leaves it.`
      : look
        ? `${weekDay(held.to)}: ${look.broken.length ? look.broken.join("; ") : [t`no rule is broken`, ...look.says].join("; ")}`
        : `${weekDay(held.to)} …`;

  return (
    <section aria-label={t`Weeks`} className="min-w-0">
      <Title aside={t`drag a session, or press m on it`}>{t`Weeks`}</Title>
      <p
        role="status"
        className={`mb-2 min-h-6 text-[14px] ${look?.broken.length ? "font-semibold text-clay" : ""}`}
      >
        {look && look.broken.length > 0 && <span aria-hidden="true">▲ </span>}
        {status}
      </p>
      <Sideways label={t`Weeks and days`}>
        <table className="w-full min-w-[46rem] table-fixed border-collapse text-[13px]">
          <thead>
            <tr>
              <th scope="col" className="w-[4.6rem] py-1 text-left font-semibold">
                {t`Week`}
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
                  <span className="block text-ink-2">{t`${w.planned} of ${w.free} min`}</span>
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
      </Sideways>
    </section>
  );
}
