import { useMemo, useState } from "react";
import type { Schema } from "../api/client";
import { Axis } from "../parts/axis";
import { dayMonth, weekDay } from "../parts/dates";
import { Choice } from "../parts/field";
import { Title } from "../parts/marks";
import { km, type LoadView } from "./hooks";

type Day = Schema["LoadDay"];

const components = ["running", "exposure", "strength", "spring"] as const;
const fill: Record<(typeof components)[number], string> = {
  running: "var(--edge)",
  exposure: "var(--right)",
  strength: "var(--pine)",
  spring: "var(--left)",
};
const tissues: [string, string][] = [
  ["achilles-calf", "Achilles and calf"],
  ["sole", "sole"],
  ["forefoot-bone", "forefoot bone"],
  ["front-shin", "front shin"],
];
const eventMark: Record<Schema["LoadEvent"]["kind"], string> = {
  screening: "S",
  block: "B",
  flare: "▲",
  deload: "–",
  race: "R",
  shoe: "◇",
  flag: "!",
};

const W = 1000;

/** Load, pain and notches on one time axis; hover or arrows read a day. */
export function Timeline({ v }: { v: LoadView }) {
  const [at, setAt] = useState(v.days.length - 1);
  const [tissue, setTissue] = useState("achilles-calf");
  const [peak, setPeak] = useState(false);
  const n = v.days.length;
  const i = Math.min(at, n - 1);
  const day = v.days[i];
  const x = (k: number) => (k * W) / n;
  const step = W / n;
  const weeks = v.days.flatMap((d, k) => (new Date(`${d.on}T00:00:00Z`).getUTCDay() === 1 ? [k] : []));
  if (!day) return null;
  const value = [
    `${km(day.metres)} km`,
    day.firstStep !== undefined ? `first steps ${day.firstStep}` : "first steps not known",
    day.runPain !== undefined && `pain on the run ${day.runPain}`,
    day.pain !== undefined && `pain in the session ${day.pain}`,
    day.rest !== undefined && `at rest ${day.rest}`,
  ]
    .filter(Boolean)
    .join(", ");
  const doses = (peak ? day.peak : day.dose)[tissue] ?? {};
  const today = v.events.filter((e) => e.on === day.on);
  return (
    <section aria-label="On one time axis" className="mb-6">
      <Title aside={`${dayMonth(v.days[0]?.on ?? v.today)} to ${dayMonth(v.today)}`}>On one time axis</Title>
      <Axis
        label="Day on the time axis"
        text={`${weekDay(day.on)}: ${value}${today.map((e) => `; ${e.text}`).join("")}`}
        at={i}
        count={n}
        page={7}
        width={W}
        height={424}
        onAt={setAt}
      >
        {weeks.map((k) => (
          <g key={k}>
            <path d={`M${x(k)} 14V404`} stroke="var(--rule)" strokeWidth="1" />
            <text x={x(k) + 3} y="418" fontSize="11" fill="var(--ink-2)">
              {dayMonth(v.days[k]?.on ?? "")}
            </text>
          </g>
        ))}
        <rect x={x(i)} y="14" width={step} height="390" fill="var(--pine-wash)" />
        <Events v={v} x={x} step={step} />
        <Kilometres days={v.days} x={x} step={step} y={24} h={84} />
        <Pain days={v.days} x={x} step={step} y={124} h={64} usual={v.usual} />
        <Dose days={v.days} x={x} step={step} y={204} h={64} tissue={tissue} peak={peak} />
        <Notches v={v} x={x} y={284} h={116} />
      </Axis>
      <p role="status" className="min-h-12 text-[15px]">
        <b>{weekDay(day.on)}</b> {value}.{" "}
        <span className="text-ink-2">
          {Object.keys(doses).length === 0
            ? `No dose on the ${tissues.find(([t]) => t === tissue)?.[1]}.`
            : `${Object.entries(doses)
                .map(([c, a]) => `${c} ${Math.round(a)}`)
                .join(
                  ", ",
                )} body weights × repetitions on the ${tissues.find(([t]) => t === tissue)?.[1]}${peak ? ", heavy work counted by its cube" : ""}.`}
        </span>{" "}
        {today.map((e) => (
          <b key={e.text}>{e.text}. </b>
        ))}
      </p>
      <div className="mt-1 flex flex-wrap items-end gap-x-6 gap-y-2">
        <Choice
          label="Tissue"
          hideLabel
          compact
          options={tissues.map(([value, label]) => ({ value, label }))}
          value={tissue}
          onChange={setTissue}
        />
        <Choice
          label="Weighting"
          hideLabel
          compact
          options={[
            { value: "sum", label: "all work" },
            { value: "peak", label: "heavy counts more" },
          ]}
          value={peak ? "peak" : "sum"}
          onChange={(w) => setPeak(w === "peak")}
        />
        <ul className="flex flex-wrap gap-x-4 text-[13px] text-ink-2">
          {components.map((c) => (
            <li key={c} className="flex items-center gap-1.5">
              <svg width="12" height="12" aria-hidden="true">
                <rect width="12" height="12" fill={fill[c]} />
              </svg>
              {c}
            </li>
          ))}
          <li>thin line: 7 days, thick line: 28 days</li>
        </ul>
      </div>
    </section>
  );
}

type X = (k: number) => number;

function Label({ y, text, aside }: { y: number; text: string; aside?: string }) {
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

function Kilometres({
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
      <Label y={y + 2} text="km a day" aside={`to ${km(most)}`} />
    </g>
  );
}

function Pain({
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
      <Label
        y={y + 2}
        text="pain"
        aside="dots first steps, squares in sessions, triangles on runs, dashes the usual"
      />
    </g>
  );
}

function Dose({
  days,
  x,
  step,
  y,
  h,
  tissue,
  peak,
}: {
  days: readonly Day[];
  x: X;
  step: number;
  y: number;
  h: number;
  tissue: string;
  peak: boolean;
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
      <Label y={y + 2} text="tissue dose" aside={`to ${Math.round(most)}`} />
    </g>
  );
}

function Notches({ v, x, y, h }: { v: LoadView; x: X; y: number; h: number }) {
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
      <Label y={y + 2} text="notches" aside={rows.map((l) => l.name).join(", ")} />
    </g>
  );
}

function Events({ v, x, step }: { v: LoadView; x: X; step: number }) {
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
