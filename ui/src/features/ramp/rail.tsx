import { t } from "@lingui/core/macro";
import { stageNames, type View, type Week } from "./hooks";

export const W = 1000;

const RAIL = { y: 34, h: 112 };

export const SHOES = { y: 172, h: 84 };

export const DOSE = { y: 282, h: 62 };

export const BOTTOM = 346;

const rank: Record<string, number> = { home: 1, walk: 2, strength: 3, drills: 4, run: 5, bare: 6, keep: 7 };

export const stageShort: Record<string, string> = {
  ...Object.fromEntries(stageNames),
  keep: "kept",
};

export const outcomeWords: Record<Week["outcome"], string> = {
  passed: "passed",
  repeat: t`done again`,
  back: t`a step back`,
  stopped: "stopped",
  open: t`this week`,
  ahead: "",
};

export const shoeParts = [
  ["usualMetres", t`usual shoes`, "var(--edge)"],
  ["minimalMetres", t`minimal shoes`, "var(--pine)"],
  ["bareMetres", t`bare feet`, "var(--ink)"],
] as const;

export function Base({ y, top, text, aside }: { y: number; top: number; text: string; aside: string }) {
  return (
    <g>
      <path d={`M0 ${y}H${W}`} stroke="var(--ink)" />
      <text
        x="2"
        y={top}
        fontSize="12.5"
        fontWeight="600"
        fill="var(--ink)"
        paintOrder="stroke"
        stroke="var(--chalk)"
        strokeWidth="3"
      >
        {text}
        <tspan fontWeight="400" fill="var(--ink-2)">
          {" "}
          {aside}
        </tspan>
      </text>
    </g>
  );
}

/** Each stage a step of the rail, each week a notch; gates are bars between them. */
export function Rail({
  v,
  weeks,
  x,
  step,
  now,
}: {
  v: View;
  weeks: readonly Week[];
  x: (k: number) => number;
  step: number;
  now: number;
}) {
  const floor = RAIL.y + RAIL.h;
  const highest = Math.max(3, ...weeks.map((w) => rank[w.state.stage] ?? 0));
  const height = (w: Week) =>
    ((rank[w.state.stage] ?? 0) / highest) * (RAIL.h - 24) + (w.state.stage ? 14 : 3);
  const begins = weeks.flatMap((w, j) => {
    const before = weeks[j - 1];
    return w.state.stage && (!before || before.state.stage !== w.state.stage) ? [j] : [];
  });
  return (
    <g>
      {weeks.map((w, j) => {
        const h = height(w);
        const past = w.outcome === "passed";
        const bad = w.outcome === "repeat" || w.outcome === "back" || w.outcome === "stopped";
        return (
          <g key={w.monday}>
            <path
              d={`M${x(j) + 1} ${floor}V${floor - h}h${step * 0.3}v5h${step * 0.4 - 2}v-5h${step * 0.3}V${floor}z`}
              fill={past ? "var(--ink)" : bad ? "var(--clay-wash)" : "var(--paper)"}
              stroke={bad ? "var(--clay)" : "var(--ink)"}
              strokeWidth="1.2"
              strokeDasharray={w.outcome === "ahead" ? "3 2" : undefined}
            />
            {bad && (
              <text
                x={x(j) + step / 2}
                y={floor - 6}
                textAnchor="middle"
                fontSize="12"
                fontWeight="700"
                fill="var(--clay)"
              >
                {w.outcome === "repeat" ? "↺" : w.outcome === "back" ? "↓" : "▮"}
              </text>
            )}
          </g>
        );
      })}
      {now >= 0 && weeks[now] && (
        <rect
          x={x(now) + step * 0.36}
          y={floor - height(weeks[now]) - 14}
          width={Math.max(4, step * 0.28)}
          height="18"
          rx="1"
          fill="var(--clay)"
        />
      )}
      {begins.map((j) => {
        const w = weeks[j] as Week;
        const gate = v.gates.find((g) => g.stage === (w.state.stage === "run" ? "drills" : w.state.stage));
        const y = floor - height(w) - 5;
        return (
          <g key={w.monday}>
            {gate && (
              <path
                d={`M${x(j)} ${floor}V${y - 4}`}
                stroke={gate.open ? "var(--pine)" : "var(--clay)"}
                strokeWidth={gate.open ? 3 : 4}
                strokeDasharray={gate.open ? undefined : "4 3"}
              />
            )}
            <text
              x={Math.min(x(j) + 5, W - 120)}
              y={y - (j === now ? 12 : 0)}
              fontSize="12.5"
              fontWeight="600"
              fill="var(--ink)"
              paintOrder="stroke"
              stroke="var(--chalk)"
              strokeWidth="3"
            >
              {w.state.stage}
            </text>
          </g>
        );
      })}
      <path d={`M0 ${floor}H${W}`} stroke="var(--ink)" />
    </g>
  );
}
