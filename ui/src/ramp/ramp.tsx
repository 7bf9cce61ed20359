import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, need, Problem } from "../api/client";
import { dayMonth, dayYear, plusDays, weekDay } from "../parts/dates";
import { useKeys } from "../parts/keys";
import { Title } from "../parts/marks";
import { Reasons, Source } from "../parts/reasons";
import { sourceText } from "../parts/source";
import { Failed, Loading, SaveState } from "../parts/states";
import { DayForm } from "../review/day";
import { CadenceSection, Cues } from "./cadence";
import { Drawing } from "./drawing";
import { type Plan, type Terms, useRamp, useRampChange, useWhatIf, type View } from "./hooks";
import { TermsForm } from "./terms";

/** The way to bare feet and to a quicker step: gates, dated weeks, one tap a day. */
export function RampView() {
  const { id = "" } = useParams();
  const r = useRamp(id);
  if (r.isPending) return <Loading what="the ramps" />;
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
  useKeys([{ show: "← →", does: "on the drawing: week by week" }]);
  const wish = (
    <section
      aria-label="The wish"
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
          {begun ? "Change from this week" : "Begin the ramp"}
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
            Back to what stands
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
      <div className="mb-4 flex flex-wrap items-end gap-x-5 gap-y-2">
        <h1>
          <Link to={`/runners/${id}`} className="hover:underline">
            {v.runnerName}
          </Link>
        </h1>
        <p className="text-ink-2">Ramps: bare feet, cadence, cues</p>
        <a className="btn-quiet ml-auto" href="#cadence">
          cadence
        </a>
        <a className="btn-quiet" href="#cues">
          cues
        </a>
        <Link className="btn-quiet" to={`/runners/${id}/block`}>
          the block
        </Link>
      </div>
      <div
        className={`grid gap-x-9 gap-y-8 ${begun ? "lg:grid-cols-[minmax(0,1fr)_20rem]" : "lg:grid-cols-[20rem_minmax(0,1fr)]"}`}
      >
        {!begun && wish}
        <section aria-label="The ramp" className="min-w-0">
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
            !what.error && <Loading what="the ramp" />
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

function End({ onEnd }: { onEnd: () => void }) {
  const [sure, setSure] = useState(false);
  return sure ? (
    <span className="flex items-center gap-2">
      The days stay in the record.
      <button type="button" className="btn" onClick={onEnd}>
        End it
      </button>
      <button type="button" className="btn-quiet" onClick={() => setSure(false)}>
        keep it
      </button>
    </span>
  ) : (
    <button type="button" className="btn-quiet" onClick={() => setSure(true)}>
      end the ramp
    </button>
  );
}

/** When the goal may be reached, or what keeps it. */
function Verdict({ v, plan, whatIf, begun }: { v: View; plan: Plan; whatIf: boolean; begun: boolean }) {
  const r = plan.range;
  const goal =
    plan.terms.goal === "run" || plan.terms.goal === "bare"
      ? `${plan.terms.goal === "bare" ? `${plan.terms.barePercent ?? 0} % with bare feet` : `${plan.terms.targetPercent} % in minimal shoes`}`
      : {
          home: "2 hours a day at home",
          walk: "two walks of 20 minutes",
          strength: "strength barefoot at full load",
          drills: "strides in minimal shoes",
        }[plan.terms.goal];
  const stands = v.plan?.range.earliest;
  return (
    <div className="mb-5 border-l-4 border-pine bg-paper p-4">
      <div className="flex flex-wrap items-baseline gap-x-6 gap-y-1">
        <div className="mr-auto">
          <p className="display text-[24px] leading-tight font-semibold">
            {whatIf && "If so: "}
            {goal}
          </p>
          {r.earliest ? (
            <p className="mt-1">
              in the week of <b>{dayYear(r.earliest, v.today)}</b> if nothing goes wrong
              {whatIf && stands && stands !== r.earliest && (
                <span className="text-ink-2"> (now {dayYear(stands, v.today)})</span>
              )}
            </p>
          ) : (
            <p className="mt-1 font-semibold text-clay">
              ▲ No date:{" "}
              {plan.waits
                ? `it waits for ${plan.waits.words}`
                : plan.refer
                  ? "a clinician looks first"
                  : "it stands still"}
              .
            </p>
          )}
        </div>
        {r.earliest && (
          <dl className="grid grid-cols-2 gap-x-6 text-right">
            <dt className="text-[13px] text-ink-2">likely</dt>
            <dt className="text-[13px] text-ink-2">late</dt>
            <dd className="display text-[22px] font-semibold">
              {r.likely ? dayYear(r.likely, v.today) : "not known"}
            </dd>
            <dd className="display text-[22px] font-semibold">
              {r.late ? dayYear(r.late, v.today) : "not known"}
            </dd>
          </dl>
        )}
      </div>
      <div className="mt-1 flex flex-wrap gap-x-4">
        <Assumptions v={v} plan={plan} />
        {!begun && <span className="text-[14px] text-ink-2">Nothing is saved until it begins.</span>}
      </div>
      {plan.refer && (
        <p role="alert" className="mt-2 font-semibold text-clay">
          ▲ A bone was tender twice. It stops until a clinician has looked.
        </p>
      )}
      {plan.outTo && !plan.refer && (
        <p role="alert" className="mt-2 font-semibold text-clay">
          ▲ A bone is tender: nothing of it up to and with {weekDay(plan.outTo)}.
        </p>
      )}
      {plan.says.map((s) => (
        <p key={s} className="mt-2">
          {s}
        </p>
      ))}
      {plan.drops.length > 0 && (
        <p className="mt-2">
          Usual shoe, not before:{" "}
          {plan.drops.map((d) => `${d.mm} mm from ${dayYear(d.from, v.today)}`).join(", ")}.
        </p>
      )}
    </div>
  );
}

const per = (x: number) => `${Math.round(x * 100)} %`;

function Assumptions({ v, plan }: { v: View; plan: Plan }) {
  const a = v.assumptions;
  return (
    <Reasons label="how these dates come about" title="Dates with a range">
      <p className="mb-2">
        {plan.range.futures} made-up futures, the same each time. Half are there by “likely”, nine in ten by
        “late”. A model for planning, not a promise about a person.
      </p>
      <dl className="grid grid-cols-[1fr_auto] gap-x-4 border-t border-rule pt-2">
        <dt>weeks with too little done</dt>
        <dd>{per(a.tooLittle)}</dd>
        <dt>weeks with a worse morning</dt>
        <dd>{per(a.morning)}</dd>
        <dt>weeks with sore calves</dt>
        <dd>{per(a.sore)}</dd>
        <dt>weeks away</dt>
        <dd>{per(a.missed)}</dd>
        <dt>weeks in which a flare begins</dt>
        <dd>{per(a.flare)}</dd>
        <dt>a closed gate stays closed two weeks more</dt>
        <dd>{per(a.gateLate)}</dd>
      </dl>
      {v.sources.map((s) => (
        <Source key={sourceText(s)} text={sourceText(s)} />
      ))}
    </Reasons>
  );
}

/** What stands today and yesterday; one tap says it was done. */
function Today({ id, v }: { id: string; v: View }) {
  const put = useRampChange(
    id,
    (body: { on: string; stage?: View["days"][number]["stage"]; done: boolean }) =>
      need(
        api.PUT("/api/runners/{id}/ramp-days", {
          params: { path: { id } },
          body: { ...body, stage: body.stage === "cadence" || body.stage === "cue" ? undefined : body.stage },
        }),
      ),
  );
  const yesterday = plusDays(v.today, -1);
  const open = v.yesterday.some((d) => !d.done);
  return (
    <section aria-label="Today on the ramp" className="mb-6 print:hidden">
      <Title aside="one tap says it was done">Today</Title>
      <Items on={v.today} list={v.days} put={put.mutate} />
      {open && (
        <>
          <h3 className="mt-3 mb-1">Yesterday, not said yet</h3>
          <Items on={yesterday} list={v.yesterday} put={put.mutate} />
        </>
      )}
      <SaveState error={put.error} saving={false} />
    </section>
  );
}

function Items({
  on,
  list,
  put,
}: {
  on: string;
  list: View["days"];
  put: (b: { on: string; stage?: View["days"][number]["stage"]; done: boolean }) => void;
}) {
  if (list.length === 0) return <p className="text-ink-2">Nothing of the ramp on this day.</p>;
  const all = list.every((d) => d.done);
  return (
    <div className="flex flex-wrap items-start gap-3">
      {list.map((d) => (
        <button
          key={d.stage}
          type="button"
          aria-pressed={d.done}
          className={`min-h-12 max-w-96 rounded-[3px] border-[1.5px] px-4 py-2 text-left ${d.done ? "border-pine bg-pine-wash" : "border-ink bg-paper"}`}
          onClick={() => put({ on, stage: d.stage, done: !d.done })}
        >
          <b>{d.done ? "✓ done" : "Done"}</b>: {d.words}
        </button>
      ))}
      {list.length > 1 && (
        <button
          type="button"
          className="btn min-h-12"
          aria-pressed={all}
          onClick={() => put({ on, done: !all })}
        >
          {all ? "take all back" : "All done"}
        </button>
      )}
    </div>
  );
}

function Gates({ v }: { v: View }) {
  return (
    <section aria-label="Gates" className="mb-6">
      <Title aside="tests and days open them, nothing else">Gates</Title>
      {v.gates.map((g) => (
        <div
          key={g.gate}
          className="grid gap-x-5 gap-y-1 border-b border-rule py-2 md:grid-cols-[13rem_1fr_11rem]"
        >
          <p>
            <b>{g.name}</b>{" "}
            {g.open ? (
              <span className="text-pine">{g.state === "waived" ? "waived" : "open"}</span>
            ) : (
              <span className="text-clay">▮ closed</span>
            )}
          </p>
          <p className="text-[14px]">
            {g.open
              ? g.until
                ? `Its tests carry it until ${dayYear(g.until, v.today)}.`
                : (g.reason ?? "")
              : `Needs ${g.missing.join("; ")}.`}
            {!g.open && g.ladders.length > 0 && (
              <span className="text-ink-2"> Works on it: {g.ladders.map((l) => l.name).join(", ")}.</span>
            )}
          </p>
          <p className="text-[14px] md:text-right">
            {!g.open && (g.earliest ? `not before ${dayYear(g.earliest, v.today)}` : "no date known")}
          </p>
        </div>
      ))}
    </section>
  );
}

function Schools({ v }: { v: View }) {
  return (
    <section aria-label="Schools">
      <Title
        aside={
          <Link className="btn-quiet" to="/shelf/schools">
            change
          </Link>
        }
      >
        Schools
      </Title>
      {v.schools.map((s) => (
        <div key={s.position} className="border-b border-rule py-2">
          <p>
            <b>{s.name}</b> {s.mine && <span className="text-pine">in use</span>}
          </p>
          <p className="text-[14px]">{s.words}.</p>
          <p className="text-[14px] text-ink-2">Open: {s.open.length > 0 ? s.open.join(", ") : "none"}.</p>
        </div>
      ))}
    </section>
  );
}

function Moves({ v }: { v: View }) {
  if (v.moves.length === 0) return null;
  const date = (d: string | undefined) => (d ? dayYear(d, v.today) : "no date");
  return (
    <section aria-label="Dates so far">
      <Title aside="newest first">Where the date moved</Title>
      <ul>
        {v.moves.map((m, i) => (
          <li key={`${m.on}${m.why}${m.to}`} className="border-b border-rule py-2">
            <b>{i === v.moves.length - 1 && !m.from ? date(m.to) : `${date(m.from)} → ${date(m.to)}`}</b>{" "}
            <span className="text-[14px] text-ink-2">
              on {dayMonth(m.on)}: {m.why}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
