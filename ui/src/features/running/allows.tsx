import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";
import { Link } from "react-router";
import { api, need, Problem } from "../../api/client";
import { Field } from "../../parts/field";
import { distance, kept, unit } from "../../parts/measures";
import { km, type LoadView, useRunChange } from "./hooks";

/** What running allows now: advice, the week, each component by its own rule. */
export function Allows({ v, id }: { v: LoadView; id: string }) {
  const [plan, setPlan] = useState<string>();
  const put = useRunChange(id, (n: number) =>
    need(
      api.PUT("/api/runners/{id}/planned-weeks/{on}", {
        params: { path: { id, on: v.next.monday } },
        body: { km: n },
      }),
    ),
  );
  const stop = v.advice.id === "no-running" || v.advice.id === "skip-next";
  const planned = plan ?? km(v.next.metres);
  return (
    <div className="mb-6 grid gap-x-8 gap-y-4 lg:grid-cols-[minmax(0,1fr)_minmax(0,1.25fr)]">
      <div className={`border-l-4 bg-paper p-4 ${stop ? "border-clay" : "border-pine"}`}>
        <p className={`display text-[20px] leading-snug font-semibold ${stop ? "text-clay" : ""}`}>
          {stop && <span aria-hidden="true">▲ </span>}
          {v.adviceText}
        </p>
        <p className="text-ink-2">{t`Because ${v.adviceWhy}.`}</p>
        {v.advice.return && (
          <p className="mt-1">
            <Link className="btn-quiet" to={`/runners/${id}/block`}>
              {t`Add the ladder “Back to running” to the block`}
            </Link>
          </p>
        )}
        <p className="mt-2">
          <Trans>
            This week: <b>{v.words}</b>
            {v.running.week.steadyToMetres > 0
              ? t`, as usual up to ${distance(v.running.week.steadyToMetres)}`
              : ""}
            {v.running.long.longestMetres > 0
              ? t`; longest run ${distance(v.running.long.metres)} against ${distance(v.running.long.longestMetres)} in the 30 days before it`
              : ""}
            .
          </Trans>
        </p>
        <form
          className="mt-3 flex flex-wrap items-end gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            put.mutate(kept("km", Number(planned.replace(",", "."))));
          }}
        >
          <Field
            label={<span className="text-[14px] font-normal">{t`Planned next week, ${unit("km")}`}</span>}
            className="w-44"
            inputMode="decimal"
            value={planned}
            error={put.error instanceof Problem ? put.error.fields.km : undefined}
            onChange={(e) => setPlan(e.target.value)}
          />
          <button type="submit" className="btn" disabled={put.isPending}>
            {t`Plan`}
          </button>
          <span className="pb-2 text-[14px] text-ink-2">{v.next.words}</span>
        </form>
        {v.warning && (
          <p role="alert" className="mt-2 font-semibold text-clay">
            <span aria-hidden="true">▲ </span>
            {v.warning}
          </p>
        )}
      </div>
      <div>
        <ul>
          {v.components.map((c) => (
            <li
              key={c.component}
              className="grid grid-cols-[6rem_1fr_auto] gap-x-4 border-b border-rule py-1.5 text-[14px]"
            >
              <b className="text-[15px]">{c.component}</b>
              <span>
                {c.state}
                <span className="block text-ink-2">{c.rule}</span>
              </span>
              <b className={c.holds ? "text-clay" : "text-pine"}>{c.holds ? t`▬ holds` : t`free`}</b>
            </li>
          ))}
        </ul>
        {v.missing.length > 0 && (
          <ul className="mt-2 list-disc pl-5 text-[14px] text-ink-2">
            {v.missing.map((m) => (
              <li key={m}>{m}</li>
            ))}
          </ul>
        )}
        <details className="mt-1 text-[13px] text-ink-2">
          <summary>{t`Sources`}</summary>
          {v.sources.map((s) => (
            <p key={s}>{s}</p>
          ))}
        </details>
      </div>
    </div>
  );
}
