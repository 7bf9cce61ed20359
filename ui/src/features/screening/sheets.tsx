import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { ReactNode } from "react";
import { Link, useParams } from "react-router";
import type { Schema } from "../../api/client";
import { useScreening, useTests } from "../../api/hooks";
import { weekDay } from "../../parts/dates";
import { HurtMap, zoneName } from "../../parts/limbs";
import { Logo, SideName } from "../../parts/marks";
import { show } from "../../parts/numbers";
import { sideName } from "../../parts/sidename";
import { Failed, Loading } from "../../parts/states";

type Screening = Schema["Screening"];

function Page({
  children,
  title,
}: {
  children: (s: Screening, tests: Schema["ScreeningTest"][]) => ReactNode;
  title: string;
}) {
  const { id = "" } = useParams();
  const s = useScreening(id);
  const tests = useTests();
  if (s.error) return <Failed error={s.error} />;
  if (!s.data || !tests.data) return <Loading what={t`the sheet`} />;
  return (
    <article className="mx-auto max-w-[46rem] bg-paper p-8 print:max-w-none print:bg-transparent print:p-0">
      <div className="mb-6 flex gap-3 print:hidden">
        <button type="button" className="btn btn-main" onClick={() => window.print()}>
          {t`Print`}
        </button>
        <Link className="btn" to={`/screenings/${id}`}>
          {t`Back`}
        </Link>
      </div>
      <header className="mb-5 flex items-end justify-between border-b-2 border-ink pb-3">
        <h1>{title}</h1>
        <Logo />
      </header>
      <p className="mb-4">
        <Trans>
          <b>{s.data.runnerName}</b>
          {s.data.runnerAge !== undefined ? t`, ${s.data.runnerAge} years` : ""} · screened{" "}
          {weekDay(s.data.on)}
        </Trans>
      </p>
      {children(s.data, tests.data.items)}
      <footer className="mt-6 border-t border-rule pt-3 text-[14px]">
        {s.data.cautions.map((c) => (
          <p key={c}>{c}</p>
        ))}
      </footer>
    </article>
  );
}

/** The places of complaints with the worst that was said of each. */
const hurtsOf = (list: Schema["ScreeningComplaint"][]) =>
  list.map((c) => ({
    zone: c.zone,
    side: c.side,
    name: zoneName(c.zone),
    pain: Math.max(c.now ?? 0, c.firstSteps ?? 0, c.rest ?? 0, c.worst ?? 0),
  }));

/** One page for a clinician: what was answered, nothing concluded. */
export function ReferSheet() {
  return (
    <Page title={t`Please look at this runner`}>
      {(s) => {
        const flags = s.flags.filter((f) => !f.cleared);
        return (
          <>
            {flags.some((f) => f.level === "emergency") && (
              <p className="mb-3 border-4 border-clay p-3 text-[18px] font-bold">
                {t`Care is needed now. Do not wait for an appointment.`}
              </p>
            )}
            <h2>{t`Why`}</h2>
            {flags.length === 0 && <p>{t`No flag stands at the moment.`}</p>}
            <ul className="my-2 list-disc pl-6">
              {flags.map((f) => (
                <li key={`${f.flag}${f.level}${f.side}`}>
                  {f.text}
                  {f.side && ` (${f.side})`}
                </li>
              ))}
            </ul>
            {s.talk.complaints.length > 0 && (
              <>
                <h2 className="mt-4">{t`What the runner says`}</h2>
                <div className="my-3">
                  <HurtMap hurts={hurtsOf(s.talk.complaints)} />
                </div>
                <ul className="my-2 list-disc pl-6">
                  {s.talk.complaints.map((c) => (
                    <li key={`${c.zone}${c.side}`}>
                      {t`${zoneName(c.zone)}, ${sideName(c.side)}: now ${c.now ?? t`not said`}, first steps ${c.firstSteps ?? t`not said`}, worst ${c.worst ?? t`not said`} of 10${c.sinceWeeks !== undefined ? t`, for ${c.sinceWeeks} weeks` : ""}`}
                    </li>
                  ))}
                </ul>
              </>
            )}
            <h2 className="mt-4">{t`What would help the coach`}</h2>
            <p>
              {t`What may be loaded, walked or run, and until when. Role and date are enough; no name is kept.`}
            </p>
            <div className="mt-4 grid grid-cols-2 gap-6">
              <p className="border-b border-ink pt-8">{t`Role, date`}</p>
              <p className="border-b border-ink pt-8">{t`Allowed, until`}</p>
            </div>
          </>
        );
      }}
    </Page>
  );
}

/** The runner's sheet: results in plain words with what is worked on. */
export function ResultSheet() {
  return (
    <Page title={t`Your screening`}>
      {(s, tests) => (
        <>
          <h2>{t`What we work on`}</h2>
          <ul className="my-2 list-disc pl-6">
            {s.findings
              .filter((f) => f.workedOn)
              .map((f) => (
                <li key={f.name}>
                  <b>{f.name}</b>
                  {f.side === "both" ? t`, both sides` : `, ${f.side}`}. {f.explains} {f.do}
                </li>
              ))}
            {s.findings.length === 0 && (
              <li>{t`Nothing stood out. Keep your feet awake: a few minutes a day.`}</li>
            )}
          </ul>
          {s.findings.some((f) => !f.workedOn) && (
            <p className="text-ink-2">
              {t`Waits for later: ${s.findings
                .filter((f) => !f.workedOn)
                .map((f) => f.name)
                .join("; ")}.`}
            </p>
          )}
          <h2 className="mt-4">{t`What was measured`}</h2>
          <table className="mt-2 w-full border-collapse text-[14px]">
            <thead>
              <tr className="border-b-2 border-ink text-left">
                <th scope="col">{t`Test`}</th>
                <th scope="col" className="text-right">
                  <span className="inline-flex justify-end">
                    <SideName side="left" />
                  </span>
                </th>
                <th scope="col" className="text-right">
                  <span className="inline-flex justify-end">
                    <SideName side="right" />
                  </span>
                </th>
              </tr>
            </thead>
            <tbody>
              {s.results.map((r) => {
                const it = tests.find((x) => x.id === r.test);
                if (!it || (r.left.value === undefined && r.right.value === undefined)) return null;
                const v = (x: Schema["ScreeningSideSummary"]) =>
                  x.value === undefined
                    ? "–"
                    : it.checks.length > 0
                      ? t`${x.seen?.length ?? 0} seen`
                      : (x.label ?? `${show(x.value, it.decimals)} ${it.unit}`);
                return (
                  <tr key={r.test} className="border-b border-rule">
                    <th scope="row" className="py-0.5 text-left font-normal">
                      {it.name}
                    </th>
                    <td className="text-right">
                      {v(r.left)} <span className="text-ink-2">{r.left.verdict}</span>
                    </td>
                    <td className="text-right">
                      {it.sided && (
                        <>
                          {v(r.right)} <span className="text-ink-2">{r.right.verdict}</span>
                        </>
                      )}
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </>
      )}
    </Page>
  );
}
