import { useState } from "react";
import { Axis, Stack } from "../parts/axis";
import { dayMonth } from "../parts/dates";
import { Choice } from "../parts/field";
import { Heads, Title } from "../parts/marks";
import { km, type Plan, stageNames, type View, type Week } from "./hooks";

const W = 1000;
const RAIL = { y: 34, h: 112 };
const SHOES = { y: 172, h: 84 };
const DOSE = { y: 282, h: 62 };
const BOTTOM = 346;
const rank: Record<string, number> = { home: 1, walk: 2, strength: 3, drills: 4, run: 5, bare: 6, keep: 7 };

const stageShort: Record<string, string> = {
  ...Object.fromEntries(stageNames),
  keep: "kept",
};

export const outcomeWords: Record<Week["outcome"], string> = {
  passed: "passed",
  repeat: "done again",
  back: "a step back",
  stopped: "stopped",
  open: "this week",
  ahead: "",
};

export const shoeParts = [
  ["usualMetres", "usual shoes", "var(--edge)"],
  ["minimalMetres", "minimal shoes", "var(--pine)"],
  ["bareMetres", "bare feet", "var(--ink)"],
] as const;

/** A week in one sentence, the same for eyes and screen readers. */
export function weekSentence(w: Week): string {
  const parts = [w.words];
  if (w.metres > 0)
    parts.push(
      `${km(w.usualMetres)} km in usual shoes, ${km(w.minimalMetres)} minimal${w.bareMetres > 0 ? `, ${km(w.bareMetres)} bare` : ""}`,
    );
  if (w.held) parts.push(`${w.held}: nothing rises`);
  if (w.wait) parts.push(`waits for ${w.wait.words}`);
  if (outcomeWords[w.outcome]) parts.push(outcomeWords[w.outcome]);
  return `${[...parts, ...w.reasons].join("; ")}.`;
}

/**
 * The whole ramp in one drawing: stages as a notch rail over calendar weeks with
 * its gates, the kilometres by shoe, and what they load. Hover or arrows read a week.
 */
export function Drawing({ v, plan, today }: { v: View; plan: Plan; today: string }) {
  const weeks = plan.weeks;
  const n = weeks.length;
  const [at, setAt] = useState(Math.max(0, plan.now));
  const [tissue, setTissue] = useState<"achilles" | "forefoot">("achilles");
  const i = Math.min(at, n - 1);
  const w = weeks[i];
  if (!w) return null;
  const columns = Math.max(n, 12);
  const step = W / columns;
  const x = (k: number) => k * step;
  const label = Math.max(1, Math.ceil(columns / 14));
  const most = Math.max(1, ...weeks.map((k) => k.metres));
  const total = (k: Week) => k[tissue].usual + k[tissue].minimal + k[tissue].bare;
  const top = Math.max(1, ...weeks.map(total));
  return (
    <section aria-label="The ramp, drawn" className="mb-6">
      <Title aside="hover, or focus and use the arrows">Week by week</Title>
      <Axis
        label="Week on the ramp"
        text={`Week ${i + 1}, from ${dayMonth(w.monday)}: ${weekSentence(w)}`}
        at={i}
        count={n}
        columns={columns}
        page={4}
        width={W}
        height={366}
        wide
        onAt={setAt}
      >
        <rect x={x(i)} y="20" width={step} height={BOTTOM - 20} fill="var(--pine-wash)" />
        {weeks.map((k, j) =>
          j % label === 0 ? (
            <text key={k.monday} x={x(j) + 2} y="362" fontSize="12" fill="var(--ink-2)">
              {dayMonth(k.monday)}
            </text>
          ) : null,
        )}
        <Rail v={v} weeks={weeks} x={x} step={step} now={plan.now} />
        {weeks.map((k, j) => (
          <Stack
            key={k.monday}
            x={x(j) + step * 0.14}
            width={step * 0.72}
            base={SHOES.y + SHOES.h}
            height={SHOES.h - 16}
            most={most}
            parts={shoeParts.map(([part, , fill]) => [k[part], fill])}
          />
        ))}
        <Base y={SHOES.y + SHOES.h} text="km a week by shoe" aside={`to ${km(most)}`} top={SHOES.y} />
        {weeks.map((k, j) => (
          <Stack
            key={k.monday}
            x={x(j) + step * 0.14}
            width={step * 0.72}
            base={DOSE.y + DOSE.h}
            height={DOSE.h - 16}
            most={top}
            parts={(["usual", "minimal", "bare"] as const).map((part, f) => [
              k[tissue][part],
              shoeParts[f]?.[2] ?? "",
            ])}
          />
        ))}
        <path
          d={`M${weeks.map((k, j) => `${x(j) + step / 2} ${DOSE.y + DOSE.h - (k[tissue].plain / top) * (DOSE.h - 16)}`).join("L")}`}
          fill="none"
          stroke="var(--clay)"
          strokeWidth="1.6"
          strokeDasharray="5 3"
        />
        <Base
          y={DOSE.y + DOSE.h}
          top={DOSE.y}
          text={`dose on ${tissue === "achilles" ? "Achilles and calf" : "forefoot bone"}`}
          aside={top > 1 ? "dashes: the same running in usual shoes" : "not known without an easy pace"}
        />
        {plan.now >= 0 && <path d={`M${x(plan.now)} 20V${BOTTOM}`} stroke="var(--ink)" strokeWidth="1.5" />}
      </Axis>
      <p role="status" className="min-h-12 text-[15px]">
        <b>
          Week {i + 1}, from {dayMonth(w.monday)}
        </b>{" "}
        {w.name}: {weekSentence(w)}
      </p>
      <div className="mt-1 flex flex-wrap items-center gap-x-6 gap-y-2">
        <Choice
          label="Tissue"
          hideLabel
          compact
          options={[
            { value: "achilles", label: "Achilles and calf" },
            { value: "forefoot", label: "forefoot bone" },
          ]}
          value={tissue}
          onChange={setTissue}
        />
        <ul className="flex flex-wrap gap-x-4 text-[13px] text-ink-2">
          {shoeParts.map(([part, name, fill]) => (
            <li key={part} className="flex items-center gap-1.5">
              <svg width="12" height="12" aria-hidden="true">
                <rect width="12" height="12" fill={fill} />
              </svg>
              {name}
            </li>
          ))}
          <li className="flex items-center gap-1.5">
            <svg width="8" height="14" aria-hidden="true">
              <path d="M4 0V14" stroke="var(--pine)" strokeWidth="3" />
            </svg>
            gate open
          </li>
          <li className="flex items-center gap-1.5">
            <svg width="8" height="14" aria-hidden="true">
              <path d="M4 0V14" stroke="var(--clay)" strokeWidth="4" strokeDasharray="4 3" />
            </svg>
            gate still closed
          </li>
        </ul>
      </div>
      <Table weeks={weeks} today={today} />
    </section>
  );
}

function Base({ y, top, text, aside }: { y: number; top: number; text: string; aside: string }) {
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
function Rail({
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

function Table({ weeks, today }: { weeks: readonly Week[]; today: string }) {
  const [all, setAll] = useState(false);
  const from = Math.max(0, weeks.findIndex((w) => w.monday > today) - 3);
  const shown = all ? weeks : weeks.slice(from, from + 8);
  const bare = weeks.some((w) => w.bareMetres > 0);
  return (
    <div className="mt-4 overflow-x-auto">
      <table className="w-full min-w-[44rem] border-collapse text-[14px]">
        <caption className="sr-only">The ramp week by week</caption>
        <Heads
          names={[
            "Week from",
            "Stage",
            "What",
            "km usual",
            "minimal",
            ...(bare ? ["bare"] : []),
            "share",
            "What became of it",
          ]}
          right={["km usual", "minimal", "bare", "share"]}
        />
        <tbody>
          {shown.map((w) => (
            <tr
              key={w.monday}
              className={`border-t border-rule align-top ${w.outcome === "open" ? "bg-paper" : ""}`}
            >
              <th scope="row" className="py-1.5 pr-3 text-left font-semibold whitespace-nowrap">
                {weeks.indexOf(w) + 1} · {dayMonth(w.monday)}
              </th>
              <td className="pr-3 py-1.5 whitespace-nowrap">{stageShort[w.state.stage] ?? "–"}</td>
              <td className="pr-3 py-1.5">{w.words}</td>
              <td className="pr-3 py-1.5 text-right">{w.metres > 0 ? km(w.usualMetres) : "–"}</td>
              <td className="pr-3 py-1.5 text-right">{w.metres > 0 ? km(w.minimalMetres) : "–"}</td>
              {bare && <td className="pr-3 py-1.5 text-right">{km(w.bareMetres)}</td>}
              <td className="pr-3 py-1.5 text-right">
                {w.metres > 0 ? `${Math.round(w.sharePercent)} %` : "–"}
              </td>
              <td className="py-1.5">
                {w.outcome !== "ahead" && <b>{outcomeWords[w.outcome]}</b>}
                {w.reasons.length > 0 && ` ${w.reasons.join("; ")}`}
                {w.held && <span className="text-ink-2"> {w.held}</span>}
                {w.wait && <span className="text-clay"> waits for {w.wait.words}</span>}
                {w.shut.map((s) => (
                  <span key={s} className="block text-clay">
                    ▲ left out: {s}
                  </span>
                ))}
                {w.reached && w.outcome === "ahead" && <span className="text-pine"> the goal</span>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {weeks.length > 8 && (
        <button type="button" className="btn-quiet mt-1 print:hidden" onClick={() => setAll(!all)}>
          {all ? "the weeks around today" : `all ${weeks.length} weeks`}
        </button>
      )}
    </div>
  );
}
