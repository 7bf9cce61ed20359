import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { api, need, type Schema } from "../../api/client";
import { useBlock } from "../../api/hooks";
import { CarePage } from "../../parts/care";
import { dayMonth } from "../../parts/dates";
import { Drawing } from "../../parts/picture";
import { RunnerHead } from "../../parts/runnerhead";
import { Sideways } from "../../parts/sideways";
import { Empty, Failed, Loading } from "../../parts/states";

/** The plan as it is printed: each week from a page of its own, for a runner without a phone. */
export function PrintView() {
  const { id = "" } = useParams();
  const b = useBlock(id);
  const sheet = useQuery({
    queryKey: ["sheet", b.data?.id, b.data?.revision],
    enabled: !!b.data,
    queryFn: () => need(api.GET("/api/blocks/{id}/sheet", { params: { path: { id: b.data?.id ?? "" } } })),
  });
  if (b.isPending || (b.data && sheet.isPending)) return <Loading what={t`the pages`} />;
  const error = b.error ?? sheet.error;
  if (error) return <Failed error={error} />;
  if (!b.data || !sheet.data)
    return (
      <Empty title={t`No block to print`}>
        <Link className="btn mt-2" to={`/runners/${id}`}>
          {t`To the runner`}
        </Link>
      </Empty>
    );
  const s = sheet.data.sheet;
  return (
    <>
      <div className="print:hidden">
        <RunnerHead id={id} name={s.runner} here="plan" page={s.title} slim quiet>
          <button type="button" className="btn btn-main" onClick={() => print()}>
            {t`Print ${s.care ? t`the page` : t`${s.weeks.length} weeks`}`}
          </button>
          <a className="btn" href={`/api/blocks/${b.data.id}/files/pdf`} download>
            {t`As PDF`}
          </a>
          <Link className="btn" to={`/runners/${id}/block`}>
            {t`To the block`}
          </Link>
        </RunnerHead>
      </div>
      {s.care && <CarePage care={s.care} name={s.runner} />}
      {s.weeks.map((w) => (
        <Page key={w.heading} s={s} w={w} />
      ))}
      {!s.care && <Wrong s={s} />}
    </>
  );
}

function Page({ s, w }: { s: Schema["Sheet"]; w: Schema["SheetWeek"] }) {
  return (
    <article
      aria-label={w.heading}
      className="mb-8 max-w-[820px] border border-rule bg-paper p-7 text-[13px] leading-snug print:m-0 print:max-w-none print:break-after-page print:border-0 print:p-0 print:text-[11px]"
    >
      <header className="mb-2 flex items-baseline justify-between gap-4 border-b-2 border-ink pb-1">
        <h2>{w.heading}</h2>
        <p>{t`${s.runner} · printed ${dayMonth(s.made.slice(0, 10))}`}</p>
      </header>
      <p className="mb-2">
        {s.practice}
        {s.contact && <> · {s.contact}</>}
      </p>
      {(s.notes ?? []).length > 0 && (
        <ul className="mb-2 border border-ink px-3 py-1.5 font-semibold">
          {s.notes?.map((n) => (
            <li key={n}>{n}</li>
          ))}
        </ul>
      )}
      <Sideways label={t`Days of ${w.heading}`} className="print:overflow-visible">
        <ol className="mb-2 grid min-w-[38rem] grid-cols-7 print:min-w-0">
          {w.days.map((d) => (
            <li key={d.name} className="border-r border-rule px-1.5 last:border-r-0">
              <b>{d.name}</b>
              {d.lines.map((l) => (
                <p key={l}>{l}</p>
              ))}
            </li>
          ))}
        </ol>
      </Sideways>
      {w.notes.map((n) => (
        <p key={n} className="mb-2 border border-ink px-2 py-1 font-semibold">
          {n}
        </p>
      ))}
      <Sideways label={t`To fill in by hand, ${w.heading}`} className="print:overflow-visible">
        <table className="mb-3 w-full min-w-[38rem] table-fixed print:min-w-0 border-collapse text-[12px] print:text-[10px]">
          <caption className="sr-only">{t`To fill in by hand`}</caption>
          <thead>
            <tr>
              <th scope="col" className="w-44 text-left font-normal text-ink-2">
                {t`a line each day`}
              </th>
              {w.days.map((d) => (
                <th key={d.name} scope="col" className="font-normal text-ink-2">
                  {d.name.slice(0, 3)}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {w.diary.map((row) => (
              <tr key={row}>
                <th scope="row" className="text-left font-semibold">
                  {row}
                </th>
                {w.days.map((d) => (
                  <td key={d.name} className="h-6 border border-edge" />
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </Sideways>
      <ul className="border-t border-rule">
        {w.work.map((x) => (
          <li key={x.name} className="flex gap-3 border-b border-rule py-1.5 break-inside-avoid">
            <span className="flex w-[100px] shrink-0">
              {x.start.length > 0 && <Drawing parts={x.start} size={50} />}
              {x.end.length > 0 && <Drawing parts={x.end} size={50} />}
            </span>
            <div className="min-w-0 flex-1">
              <p className="text-[1.15em]">
                <b>{x.name}:</b>{" "}
                {x.left === x.right ? (
                  <b>{x.left}</b>
                ) : (
                  <Trans>
                    left <b>{x.left}</b>, right <b>{x.right}</b>
                  </Trans>
                )}
              </p>
              <p className="text-ink-2">
                {[x.load, x.tempo, x.rest, x.sides, x.when].filter(Boolean).join(" · ")}
              </p>
              <p>
                {x.exercise !== x.name && <b>{x.exercise}. </b>}
                {x.setUp}
              </p>
              <p className="font-semibold">{x.cues.join(" · ")}</p>
              {x.mistakes.length > 0 && <p>{t`Watch: ${x.mistakes.join(" · ")}`}</p>}
              {[...x.cautions, ...x.notes].map((c) => (
                <p key={c}>{c}</p>
              ))}
            </div>
            <p className="w-24 shrink-0 text-right">{x.days}</p>
          </li>
        ))}
      </ul>
      <ul className="mt-2 list-disc pl-5 font-semibold">
        {s.rules.map((r) => (
          <li key={r}>{r}</li>
        ))}
      </ul>
      <p className="mt-1 font-semibold text-clay">
        {t`${s.alarms[0]?.head ?? ""}; the signs stand on the page “When something is wrong”.`}
      </p>
      <p className="mt-1 text-ink-2">{s.cautions[0]}</p>
    </article>
  );
}

/** The page of signs: get care now, a clinician first, the coach. */
function Wrong({ s }: { s: Schema["Sheet"] }) {
  return (
    <article
      aria-label={t`When something is wrong`}
      className="mb-8 max-w-[820px] border border-rule bg-paper p-7 text-[13px] leading-snug print:m-0 print:max-w-none print:break-after-page print:border-0 print:p-0 print:text-[11px]"
    >
      <header className="mb-2 flex items-baseline justify-between gap-4 border-b-2 border-ink pb-1">
        <h2>{t`When something is wrong`}</h2>
        <p>
          {s.runner} · {s.practice}
        </p>
      </header>
      {s.alarms.map((a) => (
        <div key={a.head} className="mt-2 break-inside-avoid">
          <h3 className={a.strong ? "text-clay" : ""}>{a.head}</h3>
          <ul className="list-disc pl-5">
            {a.strong && s.emergencyText && <li className="whitespace-pre-wrap">{s.emergencyText}</li>}
            {a.lines.map((l) => (
              <li key={l}>{l}</li>
            ))}
          </ul>
        </div>
      ))}
      {s.says.length > 0 && <p className="mt-2">{s.says.join(" ")}</p>}
      <p className="mt-2 text-ink-2">{s.cautions.join(" ")}</p>
    </article>
  );
}
