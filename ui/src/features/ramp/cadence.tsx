import { t } from "@lingui/core/macro";
import { lazy, Suspense } from "react";
import { dayMonth } from "../../parts/dates";
import { Title } from "../../parts/marks";
import { Metronome } from "../screening/metronome";
import type { View } from "./hooks";
import { Steps } from "./steps";

const CountAgain = lazy(async () => ({ default: (await import("./count")).CountAgain }));

const StepsForm = lazy(async () => ({ default: (await import("./stepsform")).StepsForm }));

/** Whether to change the cadence at all; then step by step with counts between. */
export function CadenceSection({ id, v }: { id: string; v: View }) {
  const c = v.cadence;
  const p = c.plan;
  return (
    <section id="cadence" aria-label={t`Cadence`} className="mt-9 scroll-mt-4">
      <Title
        aside={
          c.count
            ? t`counted ${Math.round(c.count.meanSpm * 10) / 10}${c.count.marginSpm !== undefined ? ` ± ${Math.round(c.count.marginSpm * 10) / 10}` : ""} on ${dayMonth(c.count.on)}; usual range ${c.range.join("–")}`
            : t`not counted yet`
        }
      >
        {t`Cadence`}
      </Title>
      <div className="grid gap-x-9 gap-y-6 lg:grid-cols-[20rem_minmax(0,1fr)]">
        <div className="lg:border-r lg:border-rule lg:pr-7">
          <p className="display mb-2 text-[20px] leading-tight font-semibold">{c.advice.words}</p>
          {c.advice.for.map((r) => (
            <p key={r}>
              <b className="text-pine">{t`for`}</b> {r}
            </p>
          ))}
          {c.advice.against.map((r) => (
            <p key={r}>
              <b className="text-clay">{t`against`}</b> {r}
            </p>
          ))}
          <Suspense fallback={null}>
            <StepsForm id={id} c={c} />
          </Suspense>
        </div>
        <div className="min-w-0">
          {p.says.map((s) => (
            <p key={s} className="mb-2">
              {s}
            </p>
          ))}
          {p.weeks.length > 0 && <Steps v={v} />}
          {p.stepBeforeM !== undefined && p.weeks.length > 0 && (
            <dl className="mt-3 grid grid-cols-[auto_auto_auto] gap-x-6 gap-y-1 sm:w-fit">
              <dt className="text-ink-2">{t`at the same speed`}</dt>
              <dd className="text-right text-ink-2">{t`now`}</dd>
              <dd className="text-right text-ink-2">{t`at ${p.targetSpm}`}</dd>
              <dt>{t`step length`}</dt>
              <dd className="text-right">{p.stepBeforeM.toFixed(3)} m</dd>
              <dd className="text-right font-semibold">{(p.stepAfterM ?? 0).toFixed(3)} m</dd>
              <dt>{t`contacts a kilometre, both feet`}</dt>
              <dd className="text-right">{Math.round(p.contactsPerKmBefore ?? 0)}</dd>
              <dd className="text-right font-semibold">{Math.round(p.contactsPerKmAfter ?? 0)}</dd>
            </dl>
          )}
          {c.extraContacts > 0 && p.weeks.length > 0 && (
            <p className="mt-2 text-[14px] text-ink-2">
              {t`${Math.round(c.extraContacts)} more contacts of each foot a week; they count in the tissue dose.`}
            </p>
          )}
          {c.begun && (
            <>
              <div className="mt-4 flex flex-wrap items-center gap-3">
                <Metronome
                  key={p.weeks[p.now]?.beatSpm ?? p.targetSpm}
                  start={p.weeks[p.now]?.beatSpm ?? p.targetSpm}
                />
              </div>
              <Suspense fallback={null}>
                <CountAgain id={id} v={v} />
              </Suspense>
            </>
          )}
        </div>
      </div>
    </section>
  );
}
