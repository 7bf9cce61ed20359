import { t } from "@lingui/core/macro";
import { dayMonth } from "../../parts/dates";
import { Title } from "../../parts/marks";
import { Reasons, Source } from "../../parts/reasons";
import { capital } from "../shelf/hooks";
import type { PlanView } from "./hooks";

export function Phases({
  phases,
  moved = [],
  since = {},
}: {
  phases: PlanView["phases"];
  moved?: string[];
  since?: Record<string, string>;
}) {
  const order = ["calm", "restore", "load", "spring", "transition", "maintain"];
  return (
    <section aria-label={t`Phases`} className="mb-6">
      <Title aside={t`where regions share a tissue, the more cautious one decides`}>{t`Phases`}</Title>
      {moved.length > 0 && (
        <p className="mb-2 border-l-4 border-edge bg-paper p-3">
          {t`Since the plan was made: ${moved.join("; ")}.`}
        </p>
      )}
      <ul>
        {phases.map((p) => (
          <li
            key={p.region}
            className="grid gap-x-4 border-b border-rule py-1.5 md:grid-cols-[11rem_17rem_minmax(0,1fr)]"
          >
            <b>{capital(p.name)}</b>
            <span className="flex items-center gap-1">
              {order.slice(0, 4).map((o) => (
                <span
                  key={o}
                  aria-hidden={o !== p.phase}
                  className={`rounded-[3px] border px-1.5 text-[13px] ${o === p.phase ? "border-ink bg-ink text-chalk" : "border-rule text-ink-2"}`}
                >
                  {o}
                </span>
              ))}
              {order.indexOf(p.phase) > 3 && (
                <span className="rounded-[3px] border border-ink bg-ink px-1.5 text-[13px] text-chalk">
                  {p.phase}
                </span>
              )}
            </span>
            <span className="text-[14px]">
              {since[p.region] && <b>{t`Since ${dayMonth(since[p.region] ?? "")}. `}</b>}
              {capital(p.why)}.{" "}
              <Reasons label={t`What moves it on or back`} title={`${capital(p.name)}: ${p.phase}`}>
                {p.on && (
                  <p>
                    <b>{t`On:`}</b> {p.on}.
                  </p>
                )}
                {p.back && (
                  <p className="mt-1">
                    <b>{t`Back:`}</b> {p.back}.
                  </p>
                )}
                <Source text={p.source.why ?? ""} />
              </Reasons>
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

export function LeftOut({ left }: { left: PlanView["left"] }) {
  if (left.length === 0) return null;
  return (
    <section aria-label={t`Left out`} className="mb-6">
      <Title>{t`Considered but not included`}</Title>
      <ul>
        {left.map((l) => (
          <li
            key={l.ladder}
            className="grid gap-x-4 border-b border-rule py-1.5 md:grid-cols-[17rem_minmax(0,1fr)]"
          >
            <span>
              <b>{l.name}</b> <span className="text-ink-2">{t`for ${l.for}`}</span>
            </span>
            <span>
              {capital(l.why)}.{l.later && <span className="text-ink-2">{t` It can come later.`}</span>}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

export function Minimum({ minimum }: { minimum: PlanView["minimum"] }) {
  if (minimum.length === 0) return null;
  return (
    <section aria-label={t`Five minutes a day`} className="mb-6">
      <Title aside={t`for days without time for more`}>{t`Five minutes a day`}</Title>
      <ul>
        {minimum.map((m) => (
          <li key={m.ladder} className="flex justify-between gap-4 border-b border-rule py-1.5">
            <span>
              <b>{m.name}</b> {m.words}
            </span>
            <span className="text-ink-2">{t`${Math.max(1, Math.round(m.minutes))} min`}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

export function Says({ says, cautions }: { says: string[]; cautions: string[] }) {
  return (
    <section aria-label={t`What the plan says`} className="text-[14px] text-ink-2">
      <Title>{t`Notes on the plan`}</Title>
      <ul className="list-disc pl-5">
        {says.map((x) => (
          <li key={x}>{x}</li>
        ))}
      </ul>
      <ul className="mt-3 border-t border-rule pt-3">
        {cautions.map((c) => (
          <li key={c}>{c}</li>
        ))}
      </ul>
    </section>
  );
}
