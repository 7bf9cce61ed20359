import { t } from "@lingui/core/macro";
import { useQuery } from "@tanstack/react-query";
import { api, need, type Schema } from "../../api/client";
import { dayMonth } from "../../parts/dates";
import { Title } from "../../parts/marks";

type Line = Schema["DynamicsView"];

/** What devices measured over the runs, with the change that is more than noise. */
export function Dynamics({ id }: { id: string }) {
  const list = useQuery({
    queryKey: ["runs", id, "dynamics"],
    queryFn: () => need(api.GET("/api/runners/{id}/dynamics", { params: { path: { id } } })),
  });
  const items = list.data?.items ?? [];
  if (items.length === 0) return null;
  return (
    <section aria-label={t`What devices measured`} className="mb-6">
      <Title aside={t`a coach's own measurement comes first`}>{t`What devices measured`}</Title>
      <ul className="grid gap-x-8 gap-y-4 sm:grid-cols-2">
        {items.map((v) => (
          <li key={`${v.name}/${v.device}`}>
            <p className="flex items-baseline justify-between gap-3">
              <b>{v.name}</b>
              <span className="text-[14px] text-ink-2">{v.device}</span>
            </p>
            <Chart v={v} />
            <p className={`text-[14px] ${v.trend?.real ? "font-semibold" : ""}`}>{v.words}.</p>
          </li>
        ))}
      </ul>
      {items.some((v) => v.trend) && (
        <p className="mt-2 text-[13px] text-ink-2">{t`Noise: ${items[0]?.source ?? ""}.`}</p>
      )}
    </section>
  );
}

const W = 320;
const H = 64;

function Chart({ v }: { v: Line }) {
  const values = v.readings.map((r) => r.value);
  const low = Math.min(...values);
  const high = Math.max(...values);
  const room = Math.max(high - low, 10 ** -v.digits);
  const x = (i: number) => 6 + (i / Math.max(1, values.length - 1)) * (W - 12);
  const y = (n: number) => 8 + (1 - (n - low) / room) * (H - 16);
  const first = v.readings[0]?.on;
  const last = v.readings.at(-1)?.on;
  return (
    <figure>
      <svg viewBox={`0 0 ${W} ${H}`} className="w-full" role="img" aria-label={`${v.name}, ${v.words}`}>
        <path d={`M0 ${H - 1}H${W}`} stroke="var(--rule)" />
        {v.trend && (
          <path d={`M0 ${y(v.trend.before)}H${W}`} stroke="var(--ink-2)" strokeDasharray="4 4" fill="none" />
        )}
        <path
          d={`M${values.map((n, i) => `${x(i)} ${y(n)}`).join("L")}`}
          fill="none"
          stroke="var(--ink)"
          strokeWidth="1.4"
        />
        {values.map((n, i) => (
          <circle
            // biome-ignore lint/suspicious/noArrayIndexKey: a reading is its place
            key={i}
            cx={x(i)}
            cy={y(n)}
            r="2.6"
            fill={v.trend && i >= values.length - v.trend.nowN ? "var(--pine)" : "var(--ink)"}
          />
        ))}
      </svg>
      <figcaption className="flex justify-between gap-3 text-[13px] text-ink-2">
        <span>{first && dayMonth(first)}</span>
        <span>{t`${low.toFixed(v.digits)} to ${high.toFixed(v.digits)} ${v.unit}`}</span>
        <span>{last && dayMonth(last)}</span>
      </figcaption>
    </figure>
  );
}
