import { t } from "@lingui/core/macro";
import { useMemo } from "react";
import type { Schema } from "../../api/client";
import type { LoadView } from "./hooks";
import { Label, W, type X } from "./panels";

const eventMark: Record<Schema["LoadEvent"]["kind"], string> = {
  screening: "S",
  block: "B",
  flare: "▲",
  deload: "–",
  race: "R",
  shoe: "◇",
  flag: "!",
};

export function Notches({ v, x, y, h }: { v: LoadView; x: X; y: number; h: number }) {
  const index = useMemo(() => new Map(v.days.map((d, k) => [d.on, k])), [v.days]);
  const rows = v.notches.slice(0, 8);
  const tall = (h - 10) / Math.max(1, rows.length);
  return (
    <g>
      {rows.map((l, r) => {
        const stood = l.days.flatMap((d) => [d.left, d.right]);
        const low = Math.min(...stood);
        const span = Math.max(2, Math.max(...stood) - low);
        const at = (notch: number) => y + 10 + r * tall + tall - 4 - ((notch - low) / span) * (tall - 6);
        const path = (side: "left" | "right") =>
          [
            ...l.days.flatMap((d, k) => {
              const p = index.get(d.on);
              return p === undefined ? [] : [k === 0 ? `M${x(p)} ${at(d[side])}` : `H${x(p)}V${at(d[side])}`];
            }),
            `H${W}`,
          ].join("");
        return (
          <g key={l.ladder}>
            <path d={path("left")} fill="none" stroke="var(--left)" strokeWidth="1.8" />
            <path
              d={path("right")}
              fill="none"
              stroke="var(--right)"
              strokeWidth="1.8"
              strokeDasharray="5 3"
            />
          </g>
        );
      })}
      <path d={`M0 ${y + h}H${W}`} stroke="var(--ink)" />
      <Label y={y + 2} text={t`notches`} aside={rows.map((l) => l.name).join(", ")} />
    </g>
  );
}

export function Events({ v, x, step }: { v: LoadView; x: X; step: number }) {
  const index = new Map(v.days.map((d, k) => [d.on, k]));
  return (
    <g>
      {v.events.map((e) => {
        const k = index.get(e.on);
        if (k === undefined) return null;
        const loud = e.kind === "flare" || e.kind === "flag";
        return (
          <text
            key={`${e.on}${e.kind}${e.text}`}
            x={x(k) + step / 2}
            y="11"
            textAnchor="middle"
            fontSize="12"
            fontWeight="700"
            fill={loud ? "var(--clay)" : "var(--ink-2)"}
          >
            {eventMark[e.kind]}
          </text>
        );
      })}
    </g>
  );
}
