import { t } from "@lingui/core/macro";
import { useState } from "react";
import { useParams } from "react-router";
import { api, need, Problem } from "../../api/client";
import { useKeys } from "../../parts/keys";
import { RunnerHead } from "../../parts/runnerhead";
import { Failed, Loading, SaveState } from "../../parts/states";
import { DayForm } from "../review/day";
import { CadenceSection } from "./cadence";
import { Cues } from "./cues";
import { Drawing } from "./drawing";
import { Gates, Moves, Schools } from "./gates";
import { type Terms, useRamp, useRampChange, useWhatIf, type View } from "./hooks";
import { TermsForm } from "./terms";
import { Today } from "./today";
import { End, Verdict } from "./verdict";

/** The way to bare feet and to a quicker step: gates, dated weeks, one tap a day. */
export function RampView() {
  const { id = "" } = useParams();
  const r = useRamp(id);
  if (r.isPending) return <Loading what={t`the ramps`} />;
  if (r.error) return <Failed error={r.error} retry={() => void r.refetch()} />;
  return <Ramps key={`${id}/${r.data.rev}`} id={id} v={r.data} />;
}

function Ramps({ id, v }: { id: string; v: View }) {
  const [terms, setTerms] = useState<Terms>(v.draft);
  const [away, setAway] = useState(0);
  const begun = !!v.plan;
  const changed = JSON.stringify(terms) !== JSON.stringify(v.draft) || away > 0;
  const what = useWhatIf(id, begun && !changed ? null : terms, away);
  const shown = begun && !changed ? v.plan : what.answer;
  const bad = what.error instanceof Problem && (changed || !begun) ? what.error.fields : {};
  const refused =
    what.error && Object.keys(bad).length === 0 && (changed || !begun) ? what.error.message : "";
  const put = useRampChange(id, (body: { terms: Terms; ended?: boolean }) =>
    need(api.PUT("/api/runners/{id}/ramp", { params: { path: { id }, query: { rev: v.rev } }, body })),
  );
  useKeys([{ show: "← →", does: t`on the drawing: week by week` }]);
  const wish = (
    <section
      aria-label={t`The wish`}
      className={`border-rule print:hidden ${begun ? "lg:border-l lg:pl-7" : "lg:border-r lg:pr-7"}`}
    >
      <TermsForm
        t={terms}
        set={(part) => setTerms({ ...terms, ...part })}
        bad={bad}
        away={away}
        setAway={setAway}
        begun={begun}
      />
      <div className="mt-5 flex flex-wrap gap-3">
        <button
          type="button"
          className="btn btn-main"
          disabled={put.isPending || (begun && JSON.stringify(terms) === JSON.stringify(v.draft))}
          onClick={() => put.mutate({ terms })}
        >
          {begun ? t`Change from this week` : t`Begin the ramp`}
        </button>
        {changed && (
          <button
            type="button"
            className="btn"
            onClick={() => {
              setTerms(v.draft);
              setAway(0);
            }}
          >
            {t`Discard changes`}
          </button>
        )}
        {begun && !changed && <End onEnd={() => put.mutate({ terms, ended: true })} />}
      </div>
      <SaveState error={put.error} saving={put.isPending} />
      {put.error instanceof Problem &&
        Object.entries(put.error.fields).map(([f, m]) => (
          <p key={f} className="text-clay">
            ▲ {m}
          </p>
        ))}
    </section>
  );
  return (
    <>
      <RunnerHead id={id} name={v.runnerName} here="ramps" page={t`Ramps: bare feet, cadence, cues`}>
        <a className="btn-quiet" href="#cadence">
          {t`Cadence`}
        </a>
        <a className="btn-quiet" href="#cues">
          {t`Cues`}
        </a>
      </RunnerHead>
      <div
        className={`grid gap-x-9 gap-y-8 ${begun ? "lg:grid-cols-[minmax(0,1fr)_20rem]" : "lg:grid-cols-[20rem_minmax(0,1fr)]"}`}
      >
        {!begun && wish}
        <section aria-label={t`The ramp`} className="min-w-0">
          {refused && (
            <p role="alert" className="mb-3 font-semibold text-clay">
              ▲ {refused}
            </p>
          )}
          {shown ? (
            <>
              <Verdict v={v} plan={shown} whatIf={changed && begun} begun={begun} />
              {begun && !changed && <Today id={id} v={v} />}
              <Drawing v={v} plan={shown} today={v.today} />
            </>
          ) : (
            !what.error && <Loading what={t`the ramp`} />
          )}
          <Gates v={v} />
          <div className="grid gap-x-8 gap-y-6 xl:grid-cols-2">
            <Schools v={v} />
            <Moves v={v} />
          </div>
          {begun && (
            <div className="mt-6 print:hidden">
              <DayForm runner={id} on={v.today} />
            </div>
          )}
          <ul className="mt-6 border-l-4 border-rule pl-3 text-[14px] text-ink-2">
            {v.cautions.map((c) => (
              <li key={c}>{c}</li>
            ))}
          </ul>
        </section>
        {begun && wish}
      </div>
      <CadenceSection id={id} v={v} />
      <Cues id={id} v={v} />
    </>
  );
}
