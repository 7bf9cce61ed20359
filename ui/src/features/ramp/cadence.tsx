import { useState } from "react";
import { Link } from "react-router";
import { api, need, Problem, type Schema } from "../../api/client";
import { dayMonth } from "../../parts/dates";
import { Choice, Field } from "../../parts/field";
import { Heads, Title } from "../../parts/marks";
import { SaveState } from "../../parts/states";
import { Tick } from "../../parts/tick";
import { Metronome } from "../screening/metronome";
import { CountAgain } from "./count";
import { useRampChange, type View } from "./hooks";
import { outcomeWords } from "./rail";

type Terms = Schema["TransitionCadenceTerms"];

/** Whether to change the cadence at all; then step by step with counts between. */
export function CadenceSection({ id, v }: { id: string; v: View }) {
  const c = v.cadence;
  const [t, setT] = useState<Terms>(c.terms);
  const put = useRampChange(id, (body: { terms: Terms; ended?: boolean }) =>
    need(
      api.PUT("/api/runners/{id}/cadence-ramp", {
        params: { path: { id }, query: { rev: c.rev } },
        body,
      }),
    ),
  );
  const bad = put.error instanceof Problem ? put.error.fields : {};
  const p = c.plan;
  return (
    <section id="cadence" aria-label="Cadence" className="mt-9 scroll-mt-4">
      <Title
        aside={
          c.count
            ? `counted ${Math.round(c.count.meanSpm * 10) / 10}${c.count.marginSpm !== undefined ? ` ± ${Math.round(c.count.marginSpm * 10) / 10}` : ""} on ${dayMonth(c.count.on)}; usual range ${c.range.join("–")}`
            : "not counted yet"
        }
      >
        Cadence
      </Title>
      <div className="grid gap-x-9 gap-y-6 lg:grid-cols-[20rem_minmax(0,1fr)]">
        <div className="lg:border-r lg:border-rule lg:pr-7">
          <p className="display mb-2 text-[20px] leading-tight font-semibold">{c.advice.words}</p>
          {c.advice.for.map((r) => (
            <p key={r}>
              <b className="text-pine">for</b> {r}
            </p>
          ))}
          {c.advice.against.map((r) => (
            <p key={r}>
              <b className="text-clay">against</b> {r}
            </p>
          ))}
          <div className="mt-4 grid gap-3">
            <Choice
              label="Target"
              compact
              options={[
                { value: "own-baseline", label: "own, plus 5 %" },
                { value: "fixed-range", label: `${c.range[0]} at least` },
              ]}
              value={t.school}
              onChange={(school) => setT({ ...t, school })}
            />
            {t.school === "own-baseline" && (
              <Tick
                label="On to 10 % after that"
                on={!!t.further}
                onChange={(further) => setT({ ...t, further: further || undefined })}
              />
            )}
            <Choice
              label="Steps of"
              compact
              options={[4, 5, 6].map((n) => ({ value: n, label: `${n}` }))}
              value={t.stepSpm ?? 5}
              onChange={(stepSpm) => setT({ ...t, stepSpm })}
            />
            <div className="grid grid-cols-2 gap-3">
              <Field
                label="Without a beat"
                inputMode="decimal"
                value={t.baselineSpm || ""}
                error={bad["terms.baselineSpm"]}
                hint="both feet a minute"
                onChange={(e) => setT({ ...t, baselineSpm: Number(e.target.value.replace(",", ".")) || 0 })}
              />
              <Field
                label="Speed, km/h"
                inputMode="decimal"
                value={t.speedKmh || ""}
                error={bad["terms.speedKmh"]}
                hint="kept the same"
                onChange={(e) => setT({ ...t, speedKmh: Number(e.target.value.replace(",", ".")) || 0 })}
              />
            </div>
            {c.closed && !c.begun && (
              <p className="text-clay">
                ▲ First: {c.closed}.{" "}
                <Link className="underline" to={`/runners/${id}`}>
                  Screen again
                </Link>
              </p>
            )}
            <div className="flex flex-wrap gap-3">
              <button
                type="button"
                className="btn btn-main"
                disabled={put.isPending || (!!c.closed && !c.begun)}
                onClick={() => put.mutate({ terms: t })}
              >
                {c.begun ? "Change the steps" : "Begin the steps"}
              </button>
              {c.begun && (
                <button
                  type="button"
                  className="btn-quiet"
                  onClick={() => put.mutate({ terms: t, ended: true })}
                >
                  end it
                </button>
              )}
            </div>
            <SaveState error={put.error} saving={put.isPending} />
          </div>
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
              <dt className="text-ink-2">at the same speed</dt>
              <dd className="text-right text-ink-2">now</dd>
              <dd className="text-right text-ink-2">at {p.targetSpm}</dd>
              <dt>step length</dt>
              <dd className="text-right">{p.stepBeforeM.toFixed(3)} m</dd>
              <dd className="text-right font-semibold">{(p.stepAfterM ?? 0).toFixed(3)} m</dd>
              <dt>contacts a kilometre, both feet</dt>
              <dd className="text-right">{Math.round(p.contactsPerKmBefore ?? 0)}</dd>
              <dd className="text-right font-semibold">{Math.round(p.contactsPerKmAfter ?? 0)}</dd>
            </dl>
          )}
          {c.extraContacts > 0 && p.weeks.length > 0 && (
            <p className="mt-2 text-[14px] text-ink-2">
              {Math.round(c.extraContacts)} more contacts of each foot a week; they count in the tissue dose.
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
              <CountAgain id={id} v={v} />
            </>
          )}
        </div>
      </div>
    </section>
  );
}

/** The steps as a rail of beats over weeks, with what each week holds. */
function Steps({ v }: { v: View }) {
  const p = v.cadence.plan;
  return (
    <div className="overflow-x-auto">
      <table className="w-full min-w-[34rem] border-collapse text-[14px]">
        <caption className="sr-only">The steps of the cadence, week by week</caption>
        <Heads names={["Week from", "Beat", "In the easy runs", "What became of it"]} />
        <tbody>
          {p.weeks.map((w, i) => (
            <tr key={w.monday} className={`border-t border-rule ${i === p.now ? "bg-paper" : ""}`}>
              <th scope="row" className="py-1.5 pr-3 text-left font-semibold whitespace-nowrap">
                {dayMonth(w.monday)}
              </th>
              <td className="py-1.5 pr-3">
                <Beat beat={w.beatSpm} low={Math.round(p.baselineSpm)} high={p.targetSpm} now={i === p.now} />
              </td>
              <td className="py-1.5 pr-3">{w.content}</td>
              <td className="py-1.5">
                {w.outcome !== "ahead" && <b>{outcomeWords[w.outcome]} </b>}
                {w.reasons.join("; ")}
                {w.recount && w.outcome !== "passed" && <span className="text-ink-2"> then count again</span>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Beat({ beat, low, high, now }: { beat: number; low: number; high: number; now: boolean }) {
  const share = (beat - low) / Math.max(1, high - low);
  return (
    <span className="flex items-center gap-2">
      <b className="w-9">{beat}</b>
      <svg width="110" height="14" viewBox="0 0 110 14" aria-hidden="true">
        <path d="M0 12H110" stroke="var(--ink)" />
        <rect x="0" y="7" width={110 * share} height="5" fill="var(--edge)" />
        {now && <rect x={Math.max(0, 110 * share - 4)} y="0" width="4" height="12" fill="var(--clay)" />}
      </svg>
    </span>
  );
}
