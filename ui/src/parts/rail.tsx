import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useId, useState } from "react";
import type { Schema } from "../api/client";

type Peg = Schema["PegView"];
type Notch = Schema["NotchView"];

const W = 430;
const H = 60;
const PAD = 6;

/** Where the peg came from or would go, for a decision that moves it. */
export type Ghost = { side: Peg["side"] | "both"; at: number; kind: "from" | "to" };

/**
 * A ladder as a bar with notches cut into its upper edge. The peg stands in the
 * present notch; left's is round-headed, right's square, one pine peg where both
 * stand together. One stop for the keyboard; arrows read the notches.
 */
export function NotchRail({
  name,
  notches,
  pegs,
  together,
  ghosts = [],
}: {
  name: string;
  notches: Notch[];
  pegs: Peg[];
  together: boolean;
  ghosts?: Ghost[];
}) {
  const n = notches.length;
  const step = (W - 2 * PAD) / n;
  const half = Math.min(9, step * 0.42);
  const floor = Math.min(6, step * 0.28);
  const x = (i: number) => PAD + step * (i - 0.5);
  const lowest = Math.min(...pegs.map((p) => p.notch));
  const [shown, setShown] = useState<number | null>(null);
  const id = useId();
  const line = shown === null ? null : notches[shown - 1];

  let edge = `M${PAD} 26`;
  for (let i = 1; i <= n; i++) edge += `H${x(i) - half}L${x(i) - floor} 38H${x(i) + floor}L${x(i) + half} 26`;
  edge += `H${W - PAD}V48H${PAD}Z`;

  const firstLocked = notches.findIndex((k) => k.locked) + 1;
  const gate = firstLocked > 0 ? notches[firstLocked - 1] : undefined;
  const hue = (side: Peg["side"] | "both") =>
    side === "both" ? "var(--pine)" : side === "left" ? "var(--left)" : "var(--right)";
  const shift = (side: Peg["side"] | "both") => {
    if (side === "both" || together || pegs[0]?.notch !== pegs[1]?.notch) return 0;
    return side === "left" ? -Math.min(4, step / 4) : Math.min(4, step / 4);
  };
  const where = pegs
    .map((p) => `${p.side} ${p.stopped ? t`stopped at` : "at"} ${p.notch}, ${notches[p.notch - 1]?.words}`)
    .join("; ");

  const move = (by: number) => setShown((s) => Math.min(n, Math.max(1, (s ?? lowest) + by)));

  return (
    <div className="min-w-0">
      <div
        role="slider"
        aria-label={t`${name}, ladder of ${n} notches`}
        aria-valuemin={1}
        aria-valuemax={n}
        aria-valuenow={shown ?? lowest}
        aria-valuetext={line ? t`notch ${shown ?? ""}: ${line.words}` : where}
        aria-readonly="true"
        tabIndex={0}
        className="rounded-[3px]"
        onKeyDown={(e) => {
          const by = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[e.key];
          if (by) {
            e.preventDefault();
            move(by);
          } else if (e.key === "Home") move(-n);
          else if (e.key === "End") move(n);
          else if (e.key === "Escape") setShown(null);
        }}
        onBlur={() => setShown(null)}
      >
        <svg
          viewBox={`0 0 ${W} ${H}`}
          className="block w-full"
          aria-hidden="true"
          onPointerMove={(e) => {
            const box = e.currentTarget.getBoundingClientRect();
            const at = ((e.clientX - box.left) / box.width) * W;
            setShown(Math.min(n, Math.max(1, Math.ceil((at - PAD) / step))));
          }}
          onPointerLeave={() => setShown(null)}
        >
          <path d={edge} fill="var(--paper)" stroke="var(--ink)" strokeWidth="1.6" />
          {notches.map((k, i) =>
            i + 1 < lowest ? (
              <path
                key={k.words}
                d={`M${x(i + 1) - half} 26L${x(i + 1) - floor} 38H${x(i + 1) + floor}L${x(i + 1) + half} 26Z`}
                fill="var(--ink)"
              />
            ) : null,
          )}
          {shown !== null && (
            <rect x={x(shown) - step / 2} y="40" width={step} height="7" fill="var(--ink)" opacity="0.25" />
          )}
          {gate && <path d={`M${x(firstLocked) - step / 2} 16V54`} stroke="var(--ink)" strokeWidth="4" />}
          {ghosts.map((g) => {
            const peg = pegs.find((p) => g.side === "both" || p.side === g.side);
            if (!peg || peg.notch === g.at) return null;
            const a = x(g.at) + shift(g.side);
            const b = x(peg.notch) + shift(g.side);
            return (
              <g key={`${g.side}${g.at}`} stroke="var(--ink-2)" fill="none">
                <rect x={a - 5} y="15" width="10" height="22" rx="1.5" strokeDasharray="3 2" />
                <path d={`M${a} 13Q${(a + b) / 2} -4 ${b} 7`} strokeWidth="1.4" />
              </g>
            );
          })}
          {(together ? pegs.slice(0, 1) : pegs).map((p) => {
            const side = together ? "both" : p.side;
            const at = x(p.notch) + shift(side);
            const w = Math.min(12, step * 0.8);
            return (
              <g key={p.side}>
                <rect
                  x={at - w / 2}
                  y="8"
                  width={w}
                  height="29"
                  rx={side === "right" ? 0 : side === "left" ? w / 2 : 2}
                  fill={p.stopped ? "var(--paper)" : hue(side)}
                  stroke={hue(side)}
                  strokeWidth="2"
                />
                {p.stopped && <path d={`M${at - w} 20h${2 * w}`} stroke="var(--clay)" strokeWidth="3" />}
              </g>
            );
          })}
        </svg>
      </div>
      <p id={id} className="min-h-5 text-[13px] leading-5 text-ink-2">
        {line && shown ? (
          <>
            <b className="text-ink">{t`${shown} of ${n}`}</b> {line.words}
            {line.tempo && `, ${line.tempo}`}
            {line.locked && t` · closed: ${line.locked}`}
          </>
        ) : gate ? (
          <Trans>
            closed from {firstLocked}: <b>{gate.locked}</b>
          </Trans>
        ) : null}
      </p>
    </div>
  );
}
