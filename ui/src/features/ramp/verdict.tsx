import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";
import { dayYear, weekDay } from "../../parts/dates";
import { Reasons, Source } from "../../parts/reasons";
import { sourceText } from "../../parts/source";
import type { Plan, View } from "./hooks";

export function End({ onEnd }: { onEnd: () => void }) {
  const [sure, setSure] = useState(false);
  return sure ? (
    <span className="flex items-center gap-2">
      {t`The days stay in the record.`}
      <button type="button" className="btn" onClick={onEnd}>
        {t`End it`}
      </button>
      <button type="button" className="btn-quiet" onClick={() => setSure(false)}>
        {t`Keep it`}
      </button>
    </span>
  ) : (
    <button type="button" className="btn-quiet" onClick={() => setSure(true)}>
      {t`End the ramp`}
    </button>
  );
}

/** When the goal may be reached, or what keeps it. */
export function Verdict({
  v,
  plan,
  whatIf,
  begun,
}: {
  v: View;
  plan: Plan;
  whatIf: boolean;
  begun: boolean;
}) {
  const r = plan.range;
  const goal =
    plan.terms.goal === "run" || plan.terms.goal === "bare"
      ? `${plan.terms.goal === "bare" ? t`${plan.terms.barePercent ?? 0} % with bare feet` : t`${plan.terms.targetPercent} % in minimal shoes`}`
      : {
          home: t`2 hours a day at home`,
          walk: t`two walks of 20 minutes`,
          strength: t`strength barefoot at full load`,
          drills: t`strides in minimal shoes`,
        }[plan.terms.goal];
  const stands = v.plan?.range.earliest;
  return (
    <div className="mb-5 border-l-4 border-pine bg-paper p-4">
      <div className="flex flex-wrap items-baseline gap-x-6 gap-y-1">
        <div className="mr-auto">
          <p className="display text-[24px] leading-tight font-semibold">
            {whatIf && t`If so: `}
            {goal}
          </p>
          {r.earliest ? (
            <p className="mt-1">
              <Trans>
                in the week of <b>{dayYear(r.earliest, v.today)}</b> if nothing goes wrong
              </Trans>
              {whatIf && stands && stands !== r.earliest && (
                <span className="text-ink-2">{t` (now ${dayYear(stands, v.today)})`}</span>
              )}
            </p>
          ) : (
            <p className="mt-1 font-semibold text-clay">
              {t`▲ No date: ${
                plan.waits
                  ? t`it waits for ${plan.waits.words}`
                  : plan.refer
                    ? t`a clinician looks first`
                    : t`it stands still`
              }.`}
            </p>
          )}
        </div>
        {r.earliest && (
          <dl className="grid grid-cols-2 gap-x-6 text-right">
            <dt className="text-[13px] text-ink-2">{t`likely`}</dt>
            <dt className="text-[13px] text-ink-2">{t`late`}</dt>
            <dd className="display text-[22px] font-semibold">
              {r.likely ? dayYear(r.likely, v.today) : t`not known`}
            </dd>
            <dd className="display text-[22px] font-semibold">
              {r.late ? dayYear(r.late, v.today) : t`not known`}
            </dd>
          </dl>
        )}
      </div>
      <div className="mt-1 flex flex-wrap gap-x-4">
        <Assumptions v={v} plan={plan} />
        {!begun && <span className="text-[14px] text-ink-2">{t`Nothing is saved until it begins.`}</span>}
      </div>
      {plan.refer && (
        <p role="alert" className="mt-2 font-semibold text-clay">
          {t`▲ A bone was tender twice. It stops until a clinician has looked.`}
        </p>
      )}
      {plan.outTo && !plan.refer && (
        <p role="alert" className="mt-2 font-semibold text-clay">
          {t`▲ A bone is tender: nothing of it up to and with ${weekDay(plan.outTo)}.`}
        </p>
      )}
      {plan.says.map((s) => (
        <p key={s} className="mt-2">
          {s}
        </p>
      ))}
      {plan.drops.length > 0 && (
        <p className="mt-2">
          {t`Usual shoe, not before: ${plan.drops.map((d) => t`${d.mm} mm from ${dayYear(d.from, v.today)}`).join(", ")}.`}
        </p>
      )}
    </div>
  );
}

const per = (x: number) => `${Math.round(x * 100)} %`;

function Assumptions({ v, plan }: { v: View; plan: Plan }) {
  const a = v.assumptions;
  return (
    <Reasons label={t`How these dates come about`} title={t`Dates with a range`}>
      <p className="mb-2">
        {t`${plan.range.futures} made-up futures, the same each time. Half are there by “likely”, nine in ten by “late”. A model for planning, not a promise about a person.`}
      </p>
      <dl className="grid grid-cols-[1fr_auto] gap-x-4 border-t border-rule pt-2">
        <dt>{t`weeks with too little done`}</dt>
        <dd>{per(a.tooLittle)}</dd>
        <dt>{t`weeks with a worse morning`}</dt>
        <dd>{per(a.morning)}</dd>
        <dt>{t`weeks with sore calves`}</dt>
        <dd>{per(a.sore)}</dd>
        <dt>{t`weeks away`}</dt>
        <dd>{per(a.missed)}</dd>
        <dt>{t`weeks in which a flare begins`}</dt>
        <dd>{per(a.flare)}</dd>
        <dt>{t`a closed gate stays closed two weeks more`}</dt>
        <dd>{per(a.gateLate)}</dd>
      </dl>
      {v.sources.map((s) => (
        <Source key={sourceText(s)} text={sourceText(s)} />
      ))}
    </Reasons>
  );
}
