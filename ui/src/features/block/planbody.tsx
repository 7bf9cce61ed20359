import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Title } from "../../parts/marks";
import { Picture } from "../../parts/picture";
import { Reasons, Source } from "../../parts/reasons";
import { Sideways } from "../../parts/sideways";
import { capital, usePictures } from "../shelf/hooks";
import { longDays, type PlanView, runName, sessionName, weekdays } from "./hooks";
import type { Choice } from "./plan";
import { LeftOut, Minimum, Phases, Says } from "./planside";

/** A plan in words: its week, its ladders, what waits and why. */
export function PlanBody({ plan }: { plan: PlanView }) {
  return (
    <>
      <UsualWeek plan={plan} />
      <section aria-label={t`Ladders`} className="mb-6">
        <Title aside={t`the order of a session`}>{t`Ladders`}</Title>
        {plan.choices.map((c) => (
          <ChoiceRow key={c.ladder} c={c} />
        ))}
        {plan.choices.length === 0 && (
          <p className="text-ink-2">{t`Nothing can be planned now; the reasons stand below.`}</p>
        )}
      </section>
      <Phases phases={plan.phases} />
      <LeftOut left={plan.left} />
      <Minimum minimum={plan.minimum} />
      <Says says={plan.says} cautions={plan.cautions} />
    </>
  );
}

export function UsualWeek({ plan }: { plan: PlanView }) {
  const name = (id: string) => plan.choices.find((c) => c.ladder === id)?.name ?? id;
  return (
    <section aria-label={t`The usual week`} className="mb-6">
      <Title>{t`The usual week`}</Title>
      <Sideways label={t`Days of the usual week`}>
        <ol className="grid min-w-[46rem] grid-cols-7 border-t-2 border-ink">
          {weekdays.map((d, i) => {
            const why = plan.main.find((m) => m.day === i)?.why ?? [];
            const sessions = plan.days[i] ?? [];
            const run = plan.wishes.runs?.[i] ?? "";
            const second = plan.wishes.second?.[i] ?? "";
            return (
              <li key={d} className="min-w-0 border-r border-rule px-1.5 py-2 text-[13px] last:border-r-0">
                <p className="mb-1 flex justify-between gap-1">
                  <b className="text-[15px]">{d}</b>
                  <span className="text-ink-2">
                    {runName[run]}
                    {second && ` + ${runName[second]}`}
                  </span>
                </p>
                {sessions.length === 0 && <p className="text-ink-2">{t`free`}</p>}
                {sessions.map((s) => (
                  <div key={s.kind} className="mb-1.5 border-l-[3px] border-edge bg-paper px-1.5 py-1">
                    <p className="flex justify-between gap-1 font-semibold">
                      <span>{sessionName[s.kind]}</span>
                      {s.seconds > 0 && <span>{t`${Math.ceil(s.seconds / 60)} min`}</span>}
                    </p>
                    <ul>
                      {s.ladders.map((l) => (
                        <li key={l} className="leading-snug break-words hyphens-auto">
                          {name(l)}
                        </li>
                      ))}
                    </ul>
                  </div>
                ))}
                {why.map((x) => (
                  <p key={x} className="text-[12px] leading-snug text-ink-2">
                    {x}
                  </p>
                ))}
              </li>
            );
          })}
        </ol>
      </Sideways>
    </section>
  );
}

function ChoiceRow({ c }: { c: Choice }) {
  const pic = usePictures();
  return (
    <article aria-label={c.name} className="flex gap-4 border-b border-rule py-3">
      <Picture picture={pic(c.exercise)} size={52} />
      <div className="min-w-0 flex-1">
        <h3>
          {c.name}{" "}
          <span className="font-sans text-[14px] font-normal text-ink-2">{t`for ${c.for.join(", ")}`}</span>
        </h3>
        <p>
          <b>{c.words}</b>{" "}
          <span className="text-ink-2">
            {t`notch ${c.notch} of ${c.notches}${c.extraSetSide ? t`, one set more on the ${c.extraSetSide}` : ""}${c.fromWeek > 1 ? t`, from week ${c.fromWeek}` : ""}${c.days.length > 0 ? ` · ${c.days.length === 7 ? t`every day` : c.days.map((d) => weekdays[d]).join(" ")}` : ""}`}
          </span>
        </p>
        {c.instead && <p className="text-[14px]">{capital(c.instead)}.</p>}
        {c.swaps.length > 0 && <p className="text-[14px]">{capital(c.swaps.join(", "))}.</p>}
        <WhyChoice c={c} />
      </div>
      <PathLine path={c.path} notches={c.notches} name={c.name} />
    </article>
  );
}

/** Why this ladder, this start and these days. */
export function WhyChoice({ c }: { c: Choice }) {
  return (
    <Reasons
      label={
        c.notes.length > 0
          ? t`why, and ${plural(c.notes.length, { one: "1 note", other: "# notes" })}`
          : t`why`
      }
      title={c.name}
    >
      {c.notes.length > 0 && (
        <ul className="mb-2 list-disc border-b border-rule pb-2 pl-5">
          {c.notes.map((n) => (
            <li key={n}>{n}</li>
          ))}
        </ul>
      )}
      <p className="font-semibold">{t`Works on ${c.for.join(", ")}`}</p>
      <ul className="my-2 list-disc pl-5">
        {c.reasons.map((r) => (
          <li key={r.text}>{r.text}</li>
        ))}
      </ul>
      {c.reasons[0] && <Source text={c.reasons[0].source} />}
      <p className="mt-2 border-t border-rule pt-2 font-semibold">
        {c.days.length > 0 ? c.days.map((d) => longDays[d]).join(", ") : t`No fixed day`}
      </p>
      <ul className="list-disc pl-5">
        {[...c.why, ...c.blocked].map((x) => (
          <li key={x}>{x}</li>
        ))}
      </ul>
      {c.locks.length > 0 && (
        <p className="mt-2 border-t border-rule pt-2">{t`Up to notch ${c.ceiling}: ${c.locks[0] ?? ""}.`}</p>
      )}
      {c.stops && (
        <p className="mt-2 border-t border-rule pt-2">{t`It ends at a closed notch: ${c.stops}.`}</p>
      )}
    </Reasons>
  );
}

/**
 * Where a ladder is expected to go: earliest and late as a band, likely as a
 * line, week by week.
 */
export function PathLine({ path, notches, name }: { path: Choice["path"]; notches: number; name: string }) {
  const last = path[path.length - 1];
  if (!last) return null;
  const w = 132;
  const h = 46;
  const lo = Math.min(...path.map((p) => p.late));
  const hi = Math.max(lo + 3, ...path.map((p) => p.earliest));
  const x = (i: number) => 4 + (i * (w - 8)) / Math.max(1, path.length - 1);
  const y = (n: number) => h - 6 - ((n - lo) / (hi - lo)) * (h - 12);
  const up = path.map((p, i) => `${x(i)} ${y(p.earliest)}`);
  const down = path.map((p, i) => `${x(i)} ${y(p.late)}`).reverse();
  return (
    <div className="hidden w-36 shrink-0 text-[12px] text-ink-2 sm:block">
      <svg
        viewBox={`0 0 ${w} ${h}`}
        className="w-full"
        role="img"
        aria-label={t`${name}: after ${path.length} weeks likely at notch ${last.likely}, between ${last.late} and ${last.earliest} of ${notches}`}
      >
        <path d={`M${up.join("L")}L${down.join("L")}Z`} fill="var(--pine-wash)" />
        <path
          d={`M${path.map((p, i) => `${x(i)} ${y(p.likely)}`).join("L")}`}
          fill="none"
          stroke="var(--pine)"
          strokeWidth="2"
        />
        {path.map((p, i) => (
          <circle
            // biome-ignore lint/suspicious/noArrayIndexKey: a week is its place
            key={i}
            cx={x(i)}
            cy={y(p.likely)}
            r="2"
            fill="var(--pine)"
          />
        ))}
      </svg>
      <p aria-hidden="true">
        <Trans>
          notch {last.likely} in {path.length} weeks
          <br />
          {last.late === last.earliest ? t`next notch closed for now` : t`${last.late} to ${last.earliest}`}
        </Trans>
      </p>
    </div>
  );
}
