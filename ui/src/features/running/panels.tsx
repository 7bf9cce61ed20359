import { t } from "@lingui/core/macro";
import type { Schema } from "../../api/client";
import { distance, unit } from "../../parts/measures";
import { km } from "./hooks";

export type Day = Schema["LoadDay"];

export const components = ["running", "exposure", "strength", "spring"] as const;

export const fill: Record<(typeof components)[number], string> = {
  running: "var(--edge)",
  exposure: "var(--right)",
  strength: "var(--pine)",
  spring: "var(--left)",
};

export const tissues: [string, string][] = [
  ["achilles-calf", t`Achilles and calf`],
  ["sole", "sole"],
  ["forefoot-bone", t`forefoot bone`],
  ["front-shin", t`front shin`],
];

export const W = 1000;

export type X = (k: number) => number;

export function Label({ y, text, aside }: { y: number; text: string; aside?: string }) {
  return (
    <text
      x="2"
      y={y}
      fontSize="12"
      fontWeight="600"
      fill="var(--ink)"
      paintOrder="stroke"
      stroke="var(--chalk)"
      strokeWidth="3"
    >
      {text}
      {aside && (
        <tspan fontWeight="400" fill="var(--ink-2)">
          {" "}
          {aside}
        </tspan>
      )}
    </text>
  );
}

/** A figure of an axis, at the right edge. */
function Tick({ y, text }: { y: number; text: string }) {
  return (
    <text
      x={W - 2}
      y={y - 2}
      textAnchor="end"
      fontSize="11"
      fill="var(--ink-2)"
      paintOrder="stroke"
      stroke="var(--chalk)"
      strokeWidth="3"
    >
      {text}
    </text>
  );
}

/** "0.30 ×" */
export const times = (n: number) => `${n < 1 ? n.toFixed(2) : n.toFixed(1)} ×`;

export function Kilometres({
  days,
  x,
  step,
  y,
  h,
}: {
  days: readonly Day[];
  x: X;
  step: number;
  y: number;
  h: number;
}) {
  const most = Math.max(8000, ...days.map((d) => d.metres));
  const top = (m: number) => y + h - (m / most) * (h - 14);
  const curve = (pick: (d: Day) => number) =>
    `M${days.map((d, k) => `${x(k) + step / 2} ${top(pick(d))}`).join("L")}`;
  return (
    <g>
      {days.map((d, k) =>
        d.metres > 0 ? (
          <rect
            key={d.on}
            x={x(k) + step * 0.15}
            width={step * 0.7}
            y={top(d.metres)}
            height={y + h - top(d.metres)}
            fill="var(--edge)"
          />
        ) : null,
      )}
      <path d={curve((d) => d.short)} fill="none" stroke="var(--ink)" strokeWidth="1" />
      <path d={curve((d) => d.long)} fill="none" stroke="var(--ink)" strokeWidth="2.4" />
      <path d={`M0 ${y + h}H${W}`} stroke="var(--ink)" />
      <Tick y={top(most)} text={distance(most, 0)} />
      <Tick y={top(most / 2)} text={km(most / 2)} />
      <Tick y={y + h} text="0" />
      <Label y={y + 2} text={t`${unit("km")} a day`} />
    </g>
  );
}

export function Pain({
  days,
  x,
  step,
  y,
  h,
  usual,
}: {
  days: readonly Day[];
  x: X;
  step: number;
  y: number;
  h: number;
  usual: number;
}) {
  const at = (p: number) => y + h - (p / 10) * (h - 8);
  const line = days.flatMap((d, k) =>
    d.firstStep === undefined ? [] : [`${x(k) + step / 2} ${at(d.firstStep)}`],
  );
  return (
    <g>
      <path d={`M0 ${at(usual)}H${W}`} stroke="var(--ink-2)" strokeDasharray="4 4" />
      {line.length > 1 && <path d={`M${line.join("L")}`} fill="none" stroke="var(--ink)" strokeWidth="1.6" />}
      {days.map((d, k) => (
        <g key={d.on}>
          {d.firstStep !== undefined && (
            <circle cx={x(k) + step / 2} cy={at(d.firstStep)} r="3" fill="var(--ink)" />
          )}
          {d.pain !== undefined && d.pain > 0 && (
            <rect
              x={x(k) + step / 2 - 3}
              y={at(d.pain) - 3}
              width="6"
              height="6"
              fill="none"
              stroke="var(--clay)"
              strokeWidth="1.8"
            />
          )}
          {d.runPain !== undefined && d.runPain > 0 && (
            <path
              d={`M${x(k) + step / 2 - 4} ${at(d.runPain) + 3}h8l-4-7z`}
              fill="none"
              stroke="var(--clay)"
              strokeWidth="1.8"
            />
          )}
        </g>
      ))}
      <path d={`M0 ${y + h}H${W}`} stroke="var(--ink)" />
      {[0, 5, 10].map((p) => (
        <Tick key={p} y={at(p)} text={String(p)} />
      ))}
      <Label
        y={y + 2}
        text={t`pain, 0 to 10`}
        aside={t`dots first steps, squares in sessions, triangles on runs, dashes the usual`}
      />
    </g>
  );
}

export function Dose({
  days,
  x,
  step,
  y,
  h,
  tissue,
  peak,
  usual,
}: {
  days: readonly Day[];
  x: X;
  step: number;
  y: number;
  h: number;
  tissue: string;
  peak: boolean;
  /** The dose of a usual week; undefined where none is known. */
  usual?: number;
}) {
  const of = (d: Day) => (peak ? d.peak : d.dose)[tissue] ?? {};
  const total = (d: Day) => Object.values(of(d)).reduce((a, b) => a + b, 0);
  const most = Math.max(1, ...days.map(total));
  return (
    <g>
      {days.map((d, k) => {
        let base = y + h;
        return components.map((c) => {
          const a = of(d)[c] ?? 0;
          if (a === 0) return null;
          const tall = Math.max(1.2, (a / most) * (h - 12));
          base -= tall;
          return (
            <rect
              key={`${d.on}${c}`}
              x={x(k) + step * 0.15}
              width={step * 0.7}
              y={base}
              height={tall}
              fill={fill[c]}
            />
          );
        });
      })}
      <path d={`M0 ${y + h}H${W}`} stroke="var(--ink)" />
      <Label
        y={y + 2}
        text={t`tissue dose`}
        aside={usual ? t`tallest day ${times(most / usual)} of a usual week` : t`no usual week yet`}
      />
    </g>
  );
}
