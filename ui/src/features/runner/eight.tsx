import { t } from "@lingui/core/macro";
import type { Schema } from "../../api/client";
import { dayMonth, weekDay } from "../../parts/dates";
import { Title } from "../../parts/marks";
import { distance, km as distanceOf, unit } from "../../parts/measures";
import { Sideways } from "../../parts/sideways";

const W = 940;
const left = 44;
const painTop = 22;
const painTall = 92;
const kmTop = 138;
const kmTall = 66;
const bottom = kmTop + kmTall;

const marks: Record<Schema["LoadEvent"]["kind"], string> = {
  screening: "screened",
  block: "block",
  flare: t`▲ flare`,
  deload: t`lighter week`,
  race: "race",
  shoe: t`other shoe`,
  flag: t`▲ flag`,
};

const far = (metres: number) => Number(distanceOf(metres, 3));

/** A step of kilometres or miles that gives the axis two to four lines. */
const stepOf = (most: number) => [2, 5, 10, 20, 50, 100].find((s) => most / s <= 4) ?? 100;

/** Eight weeks: every morning against the usual, every day's kilometres, and what happened. */
export function EightWeeks({ v }: { v: Schema["LoadView"] }) {
  const n = v.days.length;
  const step = (W - left) / n;
  const x = (k: number) => left + k * step;
  const pain = (p: number) => painTop + painTall - (p / 10) * painTall;
  const most = Math.max(8, ...v.days.map((d) => far(d.metres)));
  const every = stepOf(most);
  const top = Math.ceil(most / every) * every;
  const km = (k: number) => bottom - (k / top) * kmTall;
  const lines = Array.from({ length: Math.floor(top / every) + 1 }, (_, i) => i * every);
  const mondays = v.days.flatMap((d, k) => (new Date(`${d.on}T00:00:00Z`).getUTCDay() === 1 ? [k] : []));
  const index = new Map(v.days.map((d, k) => [d.on, k]));
  const jumps = v.days.filter((d) => d.times);
  const lastJump = jumps.at(-1);
  const known = v.days.filter((d) => d.firstStep !== undefined);
  const worst = Math.max(0, ...known.map((d) => d.firstStep ?? 0));
  const words = t`First-step pain on ${known.length} of ${n} mornings, at most ${worst} of 10, usually ${round(v.usual)}. ${jumps
    .map((d) => t`${weekDay(d.on)}: ${distance(d.metres)}, ${d.times ?? ""} times the longest run before.`)
    .join(" ")}`;
  return (
    <section aria-label={t`Eight weeks`} className="mb-6">
      <Title aside={t`first-step pain 0 to 10 · kilometres a day · what happened`}>{t`Eight weeks`}</Title>
      <Sideways label={t`Eight weeks`}>
        <svg
          viewBox={`0 0 ${W} ${bottom + 20}`}
          className="block w-full min-w-[36rem]"
          role="img"
          aria-label={words}
          fontSize="12"
        >
          <title>{words}</title>
          <rect
            x={left}
            width={W - left}
            y={pain(Math.min(10, v.usual))}
            height={Math.max(2, pain(0) - pain(Math.min(10, v.usual)))}
            fill="var(--pine-wash)"
          />
          {[0, 2, 4, 6, 8, 10].map((p) => (
            <g key={p}>
              <path d={`M${left} ${pain(p)}H${W}`} stroke="var(--rule)" />
              <text x={left - 8} y={pain(p) + 4} textAnchor="end" fill="var(--ink-2)">
                {p}
              </text>
            </g>
          ))}
          <text x={left + 4} y={pain(0) - 4} fill="var(--pine)">
            {t`usual, ${round(v.usual)} or less`}
          </text>
          {lines.map((k) => (
            <g key={k}>
              <path d={`M${left} ${km(k)}H${W}`} stroke={k === 0 ? "var(--ink)" : "var(--rule)"} />
              <text x={left - 8} y={km(k) + 4} textAnchor="end" fill="var(--ink-2)">
                {k === lines.at(-1) ? `${k} ${unit("km")}` : k}
              </text>
            </g>
          ))}
          {v.days.map((d, k) => (
            <g key={d.on}>
              {d.metres > 0 && (
                <rect
                  x={x(k) + step * 0.15}
                  width={step * 0.7}
                  y={km(far(d.metres))}
                  height={bottom - km(far(d.metres))}
                  fill={d.times ? "var(--clay)" : "var(--edge)"}
                  opacity={d.times ? 1 : 0.6}
                />
              )}
              {d.firstStep !== undefined && (
                <circle
                  cx={x(k) + step / 2}
                  cy={pain(d.firstStep)}
                  r="4"
                  fill={d.above ? "var(--clay)" : "var(--ink)"}
                />
              )}
            </g>
          ))}
          {lastJump && (
            <text
              x={Math.min(W - 2, x(index.get(lastJump.on) ?? 0) + step)}
              y={kmTop - 8}
              textAnchor="end"
              fontWeight="600"
              fill="var(--clay)"
            >
              {t`${distance(lastJump.metres, 0)}, ${lastJump.times ?? ""} × the longest before`}
            </text>
          )}
          {placed(v.events, index).map(({ k, text, loud }) => (
            <g key={`${k}${text}`}>
              <path
                d={`M${x(k)} 14V${bottom}`}
                stroke={loud ? "var(--clay)" : "var(--edge)"}
                strokeDasharray="2 4"
              />
              <text
                x={k > n * 0.85 ? x(k) + step : x(k)}
                y="11"
                textAnchor={k > n * 0.85 ? "end" : "start"}
                fontWeight={loud ? 600 : 400}
                fill={loud ? "var(--clay)" : "var(--ink-2)"}
              >
                {text}
              </text>
            </g>
          ))}
          {mondays
            .filter((_, i) => i % 2 === 0)
            .map((k) => (
              <text key={k} x={x(k)} y={bottom + 16} fill="var(--ink-2)">
                {dayMonth(v.days[k]?.on ?? "")}
              </text>
            ))}
        </svg>
      </Sideways>
    </section>
  );
}

const round = (n: number) => (Number.isInteger(n) ? String(n) : n.toFixed(1));

/** The marks that have room beside each other; the loud ones first. */
function placed(events: Schema["LoadEvent"][], index: Map<string, number>) {
  const out: { k: number; text: string; loud: boolean }[] = [];
  const loudFirst = [...events].sort(
    (a, b) => Number(isLoud(b.kind)) - Number(isLoud(a.kind)) || a.on.localeCompare(b.on),
  );
  for (const e of loudFirst) {
    const k = index.get(e.on);
    if (k === undefined || out.some((o) => Math.abs(o.k - k) < 6)) continue;
    out.push({ k, text: marks[e.kind], loud: isLoud(e.kind) });
  }
  return out;
}

const isLoud = (kind: string) => kind === "flare" || kind === "flag";
