import { plural, t } from "@lingui/core/macro";
import { useState } from "react";
import { locale } from "../../language";
import { Axis } from "../../parts/axis";
import { dayMonth, weekDay } from "../../parts/dates";
import { Choice } from "../../parts/field";
import { Title } from "../../parts/marks";
import { distance } from "../../parts/measures";
import { Reasons } from "../../parts/reasons";
import { capital } from "../shelf/hooks";
import { Events, Notches } from "./history";
import type { LoadView } from "./hooks";
import { components, Dose, fill, Kilometres, Pain, times, tissues, W } from "./panels";

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
    distance(day.metres),
    day.firstStep !== undefined ? t`first steps ${day.firstStep}` : t`first steps not known`,
    day.runPain !== undefined && t`pain on the run ${day.runPain}`,
    day.pain !== undefined && t`pain in the session ${day.pain}`,
    day.rest !== undefined && t`at rest ${day.rest}`,
  ]
    .filter(Boolean)
    .join(", ");
  const week = v.usualWeek.find((u) => u.tissue === tissue);
  const usual = peak ? week?.peak : week?.dose;
  const doses = (peak ? day.peak : day.dose)[tissue] ?? {};
  const sum = Object.values(doses).reduce((a, b) => a + b, 0);
  const name = tissues.find(([it]) => it === tissue)?.[1] ?? tissue;
  const today = v.events.filter((e) => e.on === day.on);
  return (
    <section aria-label={t`Load, pain and notches`} className="mb-6">
      <Title aside={t`${dayMonth(v.days[0]?.on ?? v.today)} to ${dayMonth(v.today)}`}>
        {t`Load, pain and notches`}
      </Title>
      <Axis
        label={t`Day on the time axis`}
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
        <Dose days={v.days} x={x} step={step} y={204} h={64} tissue={tissue} peak={peak} usual={usual} />
        <Notches v={v} x={x} y={284} h={116} />
      </Axis>
      <p role="status" className="min-h-12 text-[15px]">
        <b>{weekDay(day.on)}</b> {value}.{" "}
        <span className="text-ink-2">
          {Object.keys(doses).length === 0
            ? t`No dose on the ${name}.`
            : usual
              ? t`${capital(name)}: ${times(sum / usual)} of a usual week.`
              : t`${capital(name)}: no usual week to compare with yet.`}
        </span>{" "}
        {sum > 0 && (
          <Reasons label={t`The sum`} title={`${weekDay(day.on)}, ${name}`}>
            <ul>
              {Object.entries(doses).map(([c, a]) => (
                <li key={c}>
                  {c}: {Math.round(a).toLocaleString(locale())}
                </li>
              ))}
            </ul>
            <p className="mt-2 text-ink-2">
              {t`Body weights × repetitions${peak ? t`, heavy work counted by its cube` : ""}.${usual ? t` A usual week is ${usual.toLocaleString(locale())}, the mean of ${plural(week?.weeks ?? 0, { one: "one week", other: "# weeks" })}.` : ""}`}
            </p>
          </Reasons>
        )}{" "}
        {today.map((e) => (
          <b key={e.text}>{e.text}. </b>
        ))}
      </p>
      <div className="mt-1 flex flex-wrap items-end gap-x-6 gap-y-2">
        <Choice
          label={t`Tissue`}
          hideLabel
          compact
          options={tissues.map(([value, label]) => ({ value, label }))}
          value={tissue}
          onChange={setTissue}
        />
        <Choice
          label={t`Weighting`}
          hideLabel
          compact
          options={[
            { value: "sum", label: t`all work` },
            { value: "peak", label: t`heavy counts more` },
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
          <li>{t`thin line: 7 days, thick line: 28 days`}</li>
        </ul>
      </div>
    </section>
  );
}
