import { t } from "@lingui/core/macro";
import { useState } from "react";
import { gateName, type Ladder } from "./hooks";

/**
 * A ladder on the shelf: the same notched bar without a peg. Each notch can be
 * chosen; a gate stands as a bar across.
 */
export function ShelfRail({
  ladder,
  at,
  onPick,
}: {
  ladder: Ladder;
  at: number;
  onPick: (n: number) => void;
}) {
  const n = ladder.notches.length;
  const wide = 430;
  const pad = 6;
  const step = (wide - 2 * pad) / n;
  const half = Math.min(9, step * 0.42);
  const floor = Math.min(6, step * 0.28);
  const x = (i: number) => pad + step * (i - 0.5);
  const [over, setOver] = useState<number | null>(null);
  let edge = `M${pad} 6`;
  for (let i = 1; i <= n; i++) edge += `H${x(i) - half}L${x(i) - floor} 18H${x(i) + floor}L${x(i) + half} 6`;
  edge += `H${wide - pad}V28H${pad}Z`;
  const shown = over ?? at;
  const notch = ladder.notches[shown - 1];
  const step1 = (by: number) => onPick(Math.min(n, Math.max(1, at + by)));
  return (
    <div className="min-w-0">
      <div
        role="slider"
        tabIndex={0}
        aria-label={t`${ladder.name}, notches`}
        aria-valuemin={1}
        aria-valuemax={n}
        aria-valuenow={at}
        aria-valuetext={t`notch ${at}: ${ladder.notches[at - 1]?.words ?? ""}`}
        className="rounded-[3px]"
        onKeyDown={(e) => {
          const by = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1, Home: -n, End: n }[e.key];
          if (by) {
            e.preventDefault();
            step1(by);
          }
        }}
      >
        <svg
          viewBox={`0 0 ${wide} 34`}
          className="block w-full"
          aria-hidden="true"
          onPointerMove={(e) => {
            const box = e.currentTarget.getBoundingClientRect();
            const p = ((e.clientX - box.left) / box.width) * wide;
            setOver(Math.min(n, Math.max(1, Math.ceil((p - pad) / step))));
          }}
          onPointerLeave={() => setOver(null)}
          onClick={() => over && onPick(over)}
        >
          <path d={edge} fill="var(--paper)" stroke="var(--ink)" strokeWidth="1.6" />
          {ladder.notches.map((k, i) => {
            const before = ladder.notches[i - 1]?.gate;
            return k.gate && k.gate !== before ? (
              <path
                key={`${k.words}${k.gate}`}
                d={`M${x(i + 1) - step / 2} 1V33`}
                stroke="var(--ink)"
                strokeWidth="3.5"
              />
            ) : null;
          })}
          <path
            d={`M${x(shown) - half} 6L${x(shown) - floor} 18H${x(shown) + floor}L${x(shown) + half} 6Z`}
            fill="var(--pine)"
            stroke="var(--pine)"
            strokeWidth="1.6"
          />
        </svg>
      </div>
      <p className="min-h-5 text-[14px]">
        <b>{t`${shown} of ${n}`}</b> {notch?.words}
        {notch?.gate && <span className="text-ink-2">{t` · behind the gate ${gateName(notch.gate)}`}</span>}
      </p>
    </div>
  );
}
