import { t } from "@lingui/core/macro";
import { emergency } from "./rules";
import type { Ready } from "./usepocket";

/** Five minutes, or more than the plan: what is allowed without asking. */
export function Five({ p }: { p: Ready }) {
  const { plan } = p;
  const closed = !!plan.care || emergency(plan, p.local) || p.local.stopped;
  return (
    <>
      <h2 className="text-[22px]">{t`Only five minutes`}</h2>
      {closed || plan.minimum.length === 0 ? (
        <p className="mt-1">{t`Nothing today: rest is the plan.`}</p>
      ) : (
        <ul>
          {plan.minimum.map((m) => (
            <li key={m.ladder} className="flex justify-between gap-3 border-b border-rule py-2.5">
              <span>
                <b>{m.name}</b>
                <br />
                {m.words}
              </span>
              <span className="text-ink-2">{t`${Math.ceil(m.minutes)} min`}</span>
            </li>
          ))}
        </ul>
      )}
      <h2 className="mt-6 text-[22px]">{t`I feel strong today`}</h2>
      {closed || plan.strong.length === 0 ? (
        <p className="mt-1">{t`Nothing more today.`}</p>
      ) : (
        <>
          <p className="mt-1">{t`These may be done again, as often as they feel good:`}</p>
          <ul className="mt-1 list-disc pl-5">
            {plan.strong.map((x) => (
              <li key={x}>{x}</li>
            ))}
          </ul>
        </>
      )}
      <p className="mt-3 text-ink-2">
        {t`More weight, more sets or the next notch come after a session, by how it went${plan.auto ? "." : t` and with your coach's yes.`}`}
      </p>
    </>
  );
}
