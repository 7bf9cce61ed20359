import type { Schema } from "../api/client";
import { show } from "./numbers";
import { toShown, useInches } from "./units";

type Test = Schema["ScreeningTest"];
type Summary = Schema["ScreeningSideSummary"];

const W = 330;
const H = 66;
const EDGE = 12;

/**
 * One side's scale. It grows away from the spine: to the left for the left
 * side, to the right for the right one, with trials, mean, margin and cut-offs.
 */
export function SideScale({
  test,
  summary: s,
  values,
  before,
}: {
  test: Test;
  summary: Summary;
  values: { value: number; counts: boolean }[];
  /** The result of the visit before, drawn as a mark under the scale. */
  before?: number;
}) {
  const left = s.side === "left";
  const x = (v: number) => {
    const from = Math.min(0, test.min < 0 ? -test.scale / 2 : 0);
    const at =
      EDGE + ((Math.min(Math.max(v, from), test.scale) - from) / (test.scale - from)) * (W - 2 * EDGE);
    return left ? W - at : at;
  };
  const both = s.side === "both";
  const hue = both ? "var(--pine)" : left ? "var(--left)" : "var(--right)";
  const wash = both ? "var(--pine-wash)" : left ? "var(--left-wash)" : "var(--right-wash)";
  const span = (a: number, b: number) => ({ x: Math.min(x(a), x(b)), width: Math.abs(x(b) - x(a)) });
  const cuts = s.cut ? [...new Set([s.cut.watch, s.cut.ok])] : [];
  const tick = test.scale / 8;
  return (
    <svg viewBox={`0 0 ${W} ${H}`} className="block w-full max-w-[400px]" aria-hidden="true">
      <line x1={x(0)} x2={x(test.scale)} y1="44" y2="44" stroke="var(--rule)" />
      {Array.from({ length: 9 }, (_, i) => i * tick).map((v) => (
        <line key={v} x1={x(v)} x2={x(v)} y1="41" y2="47" stroke="var(--rule)" />
      ))}
      {s.value !== undefined && (
        <>
          <rect {...span(0, s.value)} y="20" height="14" fill={wash} />
          {s.margin !== undefined && (
            <rect
              {...span(s.value - s.margin, s.value + s.margin)}
              y="16"
              height="22"
              fill={hue}
              opacity="0.28"
            />
          )}
          <line x1={x(s.value)} x2={x(s.value)} y1="12" y2="42" stroke={hue} strokeWidth="3" />
        </>
      )}
      {cuts.map((c) => (
        <g key={c}>
          <line x1={x(c)} x2={x(c)} y1="6" y2="50" stroke="var(--ink)" strokeDasharray="2 3" />
          <text x={x(c)} y="62" fontSize="12" textAnchor="middle" fill="var(--ink-2)">
            {test.unit === "cm" ? Number(toShown(c).toFixed(1)) : c}
          </text>
        </g>
      ))}
      {before !== undefined && (
        <path d={`M${x(before)} 45l-4 7h8z`} fill="none" stroke={hue} strokeWidth="1.6" />
      )}
      {values.map((v, i) => {
        const k = `${i}-${v.value}`;
        if (!v.counts)
          return (
            <path
              key={k}
              d={`M${x(v.value) - 5} 22l10 10m0-10l-10 10`}
              stroke="var(--ink-2)"
              strokeWidth="1.8"
            />
          );
        if (both)
          return (
            <path
              key={k}
              d={`M${x(v.value)} 21.5l5.5 5.5l-5.5 5.5l-5.5 -5.5z`}
              fill="var(--chalk)"
              stroke={hue}
              strokeWidth="2"
            />
          );
        return left ? (
          <circle key={k} cx={x(v.value)} cy="27" r="4.5" fill="var(--chalk)" stroke={hue} strokeWidth="2" />
        ) : (
          <rect
            key={k}
            x={x(v.value) - 4.2}
            y="22.8"
            width="8.4"
            height="8.4"
            fill="var(--chalk)"
            stroke={hue}
            strokeWidth="2"
          />
        );
      })}
    </svg>
  );
}

const verdictHue: Record<string, string> = {
  ok: "text-pine",
  limited: "text-clay",
  "stopped by pain": "text-clay",
};

/** A side's number with its margin and verdict. */
export function SideNumber({ test, summary: s }: { test: Test; summary: Summary }) {
  const length = test.unit === "cm";
  const inch = useInches() && length;
  const unit = inch
    ? " in"
    : test.unit === "°" || test.unit === "%" || test.unit === "/10"
      ? test.unit
      : ` ${test.unit}`;
  const scaled = (v: number) => (inch ? toShown(v) : v);
  return (
    <div className={s.side === "left" ? "text-left" : "text-right"}>
      {s.value === undefined ? (
        <p className={verdictHue[s.verdict] ?? "text-ink-2"}>{s.verdict}</p>
      ) : (
        <>
          {test.unit !== "class" && (
            <p className="display text-[24px] leading-tight font-semibold whitespace-nowrap">
              {show(scaled(s.value), test.decimals)}
              <span className="font-sans text-[14px] font-normal text-ink-2">
                {unit}
                {s.margin !== undefined && ` ± ${show(scaled(s.margin), 1)}`}
              </span>
            </p>
          )}
          {s.verdict !== "noted" && (
            <p className={`font-semibold ${verdictHue[s.verdict] ?? ""}`}>{s.verdict}</p>
          )}
        </>
      )}
    </div>
  );
}
