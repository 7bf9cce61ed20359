import { t } from "@lingui/core/macro";
import { distance } from "../../parts/measures";
import type { Item } from "./target";

const step = 17;
const tall = 46;

/** Fourteen mornings as numbers over fourteen days of kilometres. */
export function Spark({ days }: { days: Item["days"] }) {
  const most = Math.max(8000, ...days.map((d) => d.metres));
  const known = days.filter((d) => d.firstStep !== undefined).length;
  const far = distance(
    days.reduce((n, d) => n + d.metres, 0),
    0,
  );
  const last = days.findLast((d) => d.firstStep !== undefined);
  const words = t`${known} of ${days.length} mornings told${last ? t`, the last ${last.firstStep ?? ""} of 10` : ""}; ${far} in ${days.length} days`;
  return (
    <svg
      viewBox={`0 0 ${step * days.length} ${tall}`}
      className="block h-[46px] w-full max-w-[238px]"
      role="img"
      aria-label={words}
    >
      <title>{words}</title>
      {days.map((d, i) => (
        <g key={d.on}>
          {d.metres > 0 && (
            <rect
              x={i * step + 2}
              width={step - 5}
              y={tall - 1 - (d.metres / most) * 24}
              height={(d.metres / most) * 24}
              fill="var(--edge)"
              opacity="0.6"
            />
          )}
          <text
            x={i * step + step / 2 - 0.5}
            y="13"
            textAnchor="middle"
            fontSize={d.firstStep === undefined ? 10 : 13}
            fontWeight={d.above ? 700 : 400}
            fill={d.above ? "var(--clay)" : d.firstStep === undefined ? "var(--ink-2)" : "var(--ink)"}
          >
            {d.firstStep ?? "·"}
          </text>
        </g>
      ))}
      <path d={`M0 ${tall - 0.5}H${step * days.length}`} stroke="var(--ink)" />
    </svg>
  );
}
