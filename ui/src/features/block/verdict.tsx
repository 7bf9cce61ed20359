import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, freshKey, need, Problem, type Schema } from "../../api/client";
import { useKeepBlock } from "../../api/hooks";
import { dayMonth } from "../../parts/dates";
import { Field } from "../../parts/field";
import { Title } from "../../parts/marks";
import { SaveState } from "../../parts/states";
import { capital } from "../shelf/hooks";
import type { PlanView, Wishes } from "./hooks";

export function Verdict({
  id,
  v,
  plan,
  wishes,
  changed,
  startOn,
  setStartOn,
  drop,
  reset,
  error,
  set,
}: {
  id: string;
  v: Schema["WishesView"];
  plan: PlanView;
  wishes: Wishes;
  changed: boolean;
  startOn: string;
  setStartOn: (v: string) => void;
  drop: () => void;
  reset: () => void;
  error: Error | null;
  set: (part: Partial<Wishes>) => void;
}) {
  const go = useNavigate();
  const qc = useQueryClient();
  const keep = useKeepBlock();
  const [key, setKey] = useState(freshKey);
  const make = useMutation({
    mutationFn: () =>
      need(
        api.POST("/api/runners/{id}/blocks", {
          params: { path: { id }, header: { "Idempotency-Key": key } },
          body: { screeningId: plan.screeningId, startOn: startOn || undefined, wishes },
        }),
      ),
    onError: () => setKey(freshKey()),
    onSuccess: (b) => {
      drop();
      keep(b);
      void qc.invalidateQueries({ queryKey: ["wishes", id] });
      go(`/runners/${id}/block`);
    },
  });
  const save = useMutation({
    mutationFn: () =>
      need(
        api.PUT("/api/runners/{id}/wishes", {
          params: { path: { id }, query: { rev: v.rev } },
          body: wishes,
        }),
      ),
    onSuccess: (next) => {
      drop();
      qc.setQueryData(["wishes", id], next);
    },
  });
  return (
    <div className="mb-6">
      <div
        className={`flex flex-wrap items-center gap-x-5 gap-y-3 border-l-4 bg-paper p-4 ${plan.fits ? "border-pine" : "border-clay"}`}
      >
        <div className="mr-auto">
          <p className="display text-[22px] leading-tight font-semibold" role="status">
            {plan.fits
              ? t`${plan.minutes.planned} of ${plan.minutes.available} minutes a week`
              : t`This does not fit the week`}
          </p>
          <p className="text-ink-2">
            {t`${plan.wishes.weeks} weeks from ${dayMonth(plan.start)}, ${plan.choices.length} ladders`}
          </p>
        </div>
        <Field
          label={<span className="text-[13px] font-normal text-ink-2">{t`Starts`}</span>}
          aria-label={t`Start of the block`}
          type="date"
          className="w-40"
          value={startOn}
          onChange={(e) => setStartOn(e.target.value)}
        />
        <button
          type="button"
          className="btn btn-main"
          disabled={!plan.fits || plan.choices.length === 0 || make.isPending || !!error}
          onClick={() => make.mutate()}
        >
          {t`Make this block`}
        </button>
      </div>
      <SaveState error={make.error} saving={make.isPending} />
      {error instanceof Problem && (
        <p role="alert" className="mt-2 text-clay">
          <Trans>
            <span aria-hidden="true">▲ </span>
            {Object.values(error.fields)[0] ?? error.message}. The plan below is the one before.
          </Trans>
        </p>
      )}
      {plan.remarks.length > 0 && (
        <ul className="mt-3 grid gap-1">
          {plan.remarks.map((r) => (
            <li key={r} className="border-l-2 border-edge pl-3">
              {r}
            </li>
          ))}
        </ul>
      )}
      {!plan.fits && (
        <div className="mt-4">
          <Title aside={t`smallest change first; tissue rules stay`}>{t`How to make it fit`}</Title>
          <ul className="grid gap-2">
            {plan.relax.map((r) => (
              <li key={r.words} className="flex items-center gap-3">
                <button
                  type="button"
                  className="btn"
                  onClick={() =>
                    set({
                      ...r.week,
                      ...(r.small ? { small: true } : {}),
                      ...(r.leave
                        ? {
                            excluded: [
                              ...wishes.excluded,
                              { ladder: r.leave, reason: t`does not fit the week`, on: plan.start },
                            ],
                          }
                        : {}),
                    })
                  }
                >
                  {capital(r.words)}
                </button>
              </li>
            ))}
            {plan.relax.length === 0 && (
              <li>{t`Nothing would help; the five minutes a day below always work.`}</li>
            )}
          </ul>
        </div>
      )}
      {changed && (
        <section aria-label={t`What changes`} className="mt-4">
          <Title
            aside={
              <span className="flex gap-3">
                <button type="button" className="btn-quiet" onClick={() => save.mutate()}>
                  {t`Keep for this runner`}
                </button>
                <button type="button" className="btn-quiet" onClick={reset}>
                  {t`Discard changes`}
                </button>
              </span>
            }
          >
            {t`What changes`}
          </Title>
          <SaveState error={save.error} saving={save.isPending} />
          {plan.changes.length === 0 ? (
            <p className="text-ink-2">{t`Nothing in the plan changes.`}</p>
          ) : (
            <ul className="list-disc pl-5">
              {plan.changes.map((c) => (
                <li key={c}>{c}</li>
              ))}
            </ul>
          )}
        </section>
      )}
    </div>
  );
}
