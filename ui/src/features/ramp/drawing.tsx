import { t } from "@lingui/core/macro";
import { useState } from "react";
import { Axis, Stack } from "../../parts/axis";
import { dayMonth } from "../../parts/dates";
import { Choice } from "../../parts/field";
import { Title } from "../../parts/marks";
import { unit } from "../../parts/measures";
import { km, type Plan, type View, type Week } from "./hooks";
import { Base, BOTTOM, DOSE, Rail, SHOES, shoeParts, W } from "./rail";
import { Table, weekSentence } from "./weektable";

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
    <section aria-label={t`The ramp, drawn`} className="mb-6">
      <Title aside={t`hover, or focus and use the arrows`}>{t`Week by week`}</Title>
      <Axis
        label={t`Week on the ramp`}
        text={t`Week ${i + 1}, from ${dayMonth(w.monday)}: ${weekSentence(w)}`}
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
        <Base
          y={SHOES.y + SHOES.h}
          text={t`${unit("km")} a week by shoe`}
          aside={t`to ${km(most)}`}
          top={SHOES.y}
        />
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
          text={t`dose on ${tissue === "achilles" ? t`Achilles and calf` : t`forefoot bone`}`}
          aside={top > 1 ? t`dashes: the same running in usual shoes` : t`not known without an easy pace`}
        />
        {plan.now >= 0 && <path d={`M${x(plan.now)} 20V${BOTTOM}`} stroke="var(--ink)" strokeWidth="1.5" />}
      </Axis>
      <p role="status" className="min-h-12 text-[15px]">
        <b>{t`Week ${i + 1}, from ${dayMonth(w.monday)}`}</b> {w.name}: {weekSentence(w)}
      </p>
      <div className="mt-1 flex flex-wrap items-center gap-x-6 gap-y-2">
        <Choice
          label={t`Tissue`}
          hideLabel
          compact
          options={[
            { value: "achilles", label: t`Achilles and calf` },
            { value: "forefoot", label: t`forefoot bone` },
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
            {t`gate open`}
          </li>
          <li className="flex items-center gap-1.5">
            <svg width="8" height="14" aria-hidden="true">
              <path d="M4 0V14" stroke="var(--clay)" strokeWidth="4" strokeDasharray="4 3" />
            </svg>
            {t`gate still closed`}
          </li>
        </ul>
      </div>
      <Table weeks={weeks} today={today} />
    </section>
  );
}
