import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, freshKey, need, Problem, type Schema } from "../api/client";
import { useDraft, useKeepBlock } from "../api/hooks";
import { dayMonth } from "../parts/dates";
import { Field } from "../parts/field";
import { useKeys } from "../parts/keys";
import { Title } from "../parts/marks";
import { Picture } from "../parts/picture";
import { Reasons, Source } from "../parts/reasons";
import { Empty, Failed, Loading, SaveState } from "../parts/states";
import { capital, usePictures } from "../shelf/hooks";
import {
  longDays,
  type PlanView,
  runName,
  sessionName,
  usePreview,
  useWishes,
  type Wishes,
  weekdays,
} from "./hooks";
import { WishesForm } from "./wishes";

type Choice = Schema["ChoiceView"];

/** The plan desk: the runner's week on the left, the block it makes on the right. */
export function PlanDesk() {
  const { id = "" } = useParams();
  const w = useWishes(id);
  if (w.isPending) return <Loading what="the plan" />;
  if (w.error) return <Failed error={w.error} retry={() => void w.refetch()} />;
  return <Desk key={w.data.rev} id={id} v={w.data} />;
}

function Desk({ id, v }: { id: string; v: Schema["WishesView"] }) {
  const draft = useDraft<Wishes>(`wishes:${id}:${v.rev}`, v.wishes);
  const [startOn, setStartOn] = useState("");
  const { plan, error } = usePreview(id, draft.value, startOn);
  useKeys([{ show: "Tab", does: "from the week to the plan" }]);
  const bad = error instanceof Problem ? error.fields : {};
  const refused = error instanceof Problem && Object.keys(bad).length === 0;
  if (refused && !plan)
    return (
      <Empty title="No plan yet">
        <p>{error.message}</p>
        <Link className="btn mt-3" to={`/runners/${id}`}>
          To the runner
        </Link>
      </Empty>
    );
  if (!plan) return error ? <Failed error={error} /> : <Loading what="the plan" />;
  const set = (part: Partial<Wishes>) => draft.set({ ...draft.value, ...part });
  const changed = JSON.stringify(draft.value) !== JSON.stringify(v.wishes);
  return (
    <>
      <div className="mb-4 flex flex-wrap items-end gap-x-5 gap-y-2">
        <h1>
          <Link to={`/runners/${id}`} className="hover:underline">
            {plan.runnerName}
          </Link>
        </h1>
        <p className="text-ink-2">Plan a block</p>
        <Link className="btn-quiet ml-auto" to={`/runners/${id}/schools`}>
          compare schools
        </Link>
      </div>
      <div className="grid gap-x-9 gap-y-8 lg:grid-cols-[22rem_minmax(0,1fr)]">
        <section aria-label="Week and wishes" className="lg:border-r lg:border-rule lg:pr-7">
          <WishesForm
            v={v}
            w={draft.value}
            set={set}
            bad={bad}
            kmNow={Math.round((plan.weeks[0]?.running.meanMetres ?? 0) / 1000)}
          />
        </section>
        <section aria-label="The plan" className="min-w-0">
          <Verdict
            id={id}
            v={v}
            plan={plan}
            wishes={draft.value}
            changed={changed}
            startOn={startOn}
            setStartOn={setStartOn}
            drop={draft.done}
            reset={() => {
              draft.set(v.wishes);
              draft.done();
            }}
            error={error}
            set={set}
          />
          <PlanBody plan={plan} />
        </section>
      </div>
    </>
  );
}

function Verdict({
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
              ? `${plan.minutes.planned} of ${plan.minutes.available} minutes a week`
              : "This does not fit the week"}
          </p>
          <p className="text-ink-2">
            {plan.wishes.weeks} weeks from {dayMonth(plan.start)}, {plan.choices.length} ladders
          </p>
        </div>
        <Field
          label={<span className="text-[13px] font-normal text-ink-2">Starts</span>}
          aria-label="Start of the block"
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
          Make this block
        </button>
      </div>
      <SaveState error={make.error} saving={make.isPending} />
      {error instanceof Problem && (
        <p role="alert" className="mt-2 text-clay">
          <span aria-hidden="true">▲ </span>
          {Object.values(error.fields)[0] ?? error.message}. The plan below is the one before.
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
          <Title aside="the cheapest first; none gives up a rule that protects tissue">Ways out</Title>
          <ul className="grid gap-2">
            {plan.relax.map((r) => (
              <li key={r.words} className="flex items-center gap-3">
                <button
                  type="button"
                  className="btn"
                  onClick={() =>
                    set({
                      ...r.week,
                      ...(r.leave
                        ? {
                            excluded: [
                              ...wishes.excluded,
                              { ladder: r.leave, reason: "does not fit the week", on: plan.start },
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
              <li>Nothing would help; the five minutes a day below always work.</li>
            )}
          </ul>
        </div>
      )}
      {changed && (
        <section aria-label="What changes" className="mt-4">
          <Title
            aside={
              <span className="flex gap-3">
                <button type="button" className="btn-quiet" onClick={() => save.mutate()}>
                  keep for this runner
                </button>
                <button type="button" className="btn-quiet" onClick={reset}>
                  as it was
                </button>
              </span>
            }
          >
            What changes
          </Title>
          <SaveState error={save.error} saving={save.isPending} />
          {plan.changes.length === 0 ? (
            <p className="text-ink-2">Nothing in the plan changes.</p>
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

/** A plan in words: its week, its ladders, what waits and why. */
export function PlanBody({ plan }: { plan: PlanView }) {
  return (
    <>
      <UsualWeek plan={plan} />
      <section aria-label="Ladders" className="mb-6">
        <Title aside="the order of a session">Ladders</Title>
        {plan.choices.map((c) => (
          <ChoiceRow key={c.ladder} c={c} />
        ))}
        {plan.choices.length === 0 && (
          <p className="text-ink-2">Nothing can be planned now; the reasons stand below.</p>
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
    <section aria-label="The usual week" className="mb-6">
      <Title>The usual week</Title>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard */}
      <section className="overflow-x-auto" tabIndex={0} aria-label="Days of the usual week, scrolls sideways">
        <ol className="grid min-w-[46rem] grid-cols-7 border-t-2 border-ink">
          {weekdays.map((d, i) => {
            const why = plan.main.find((m) => m.day === i)?.why ?? [];
            const sessions = plan.days[i] ?? [];
            const run = plan.wishes.runs?.[i] ?? "";
            return (
              <li key={d} className="min-w-0 border-r border-rule px-1.5 py-2 text-[13px] last:border-r-0">
                <p className="mb-1 flex justify-between gap-1">
                  <b className="text-[15px]">{d}</b>
                  <span className="text-ink-2">{runName[run]}</span>
                </p>
                {sessions.length === 0 && <p className="text-ink-2">free</p>}
                {sessions.map((s) => (
                  <div key={s.kind} className="mb-1.5 border-l-[3px] border-edge bg-paper px-1.5 py-1">
                    <p className="flex justify-between gap-1 font-semibold">
                      <span>{sessionName[s.kind]}</span>
                      {s.seconds > 0 && <span>{Math.ceil(s.seconds / 60)} min</span>}
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
      </section>
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
          <span className="font-sans text-[14px] font-normal text-ink-2">for {c.for.join(", ")}</span>
        </h3>
        <p>
          <b>{c.words}</b>{" "}
          <span className="text-ink-2">
            notch {c.notch} of {c.notches}
            {c.extraSetSide && `, one set more on the ${c.extraSetSide}`}
            {c.fromWeek > 1 && `, from week ${c.fromWeek}`}
            {c.days.length > 0 &&
              ` · ${c.days.length === 7 ? "every day" : c.days.map((d) => weekdays[d]).join(" ")}`}
          </span>
        </p>
        {c.instead && <p className="text-[14px]">{capital(c.instead)}.</p>}
        {c.swaps.length > 0 && <p className="text-[14px]">{capital(c.swaps.join(", "))}.</p>}
        {c.notes.map((n) => (
          <p key={n} className="text-[14px] text-ink-2">
            {n}
          </p>
        ))}
        {c.locks.length > 0 && (
          <p className="text-[14px] text-ink-2">
            Up to notch {c.ceiling}: {c.locks[0]}.
          </p>
        )}
        <WhyChoice c={c} />
      </div>
      <PathLine path={c.path} notches={c.notches} name={c.name} />
    </article>
  );
}

/** Why this ladder, this start and these days. */
export function WhyChoice({ c }: { c: Choice }) {
  return (
    <Reasons label="why" title={c.name}>
      <p className="font-semibold">Works on {c.for.join(", ")}</p>
      <ul className="my-2 list-disc pl-5">
        {c.reasons.map((r) => (
          <li key={r.text}>{r.text}</li>
        ))}
      </ul>
      {c.reasons[0] && <Source text={c.reasons[0].source} />}
      <p className="mt-2 border-t border-rule pt-2 font-semibold">
        {c.days.length > 0 ? c.days.map((d) => longDays[d]).join(", ") : "No fixed day"}
      </p>
      <ul className="list-disc pl-5">
        {[...c.why, ...c.blocked].map((x) => (
          <li key={x}>{x}</li>
        ))}
      </ul>
      {c.stops && <p className="mt-2 border-t border-rule pt-2">It ends where it is closed: {c.stops}.</p>}
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
        aria-label={`${name}: after ${path.length} weeks likely at notch ${last.likely}, between ${last.late} and ${last.earliest} of ${notches}`}
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
        notch {last.likely} in {path.length} weeks
        <br />
        {last.late === last.earliest ? "closed above for now" : `${last.late} to ${last.earliest}`}
      </p>
    </div>
  );
}

export function Phases({
  phases,
  moved = [],
  since = {},
}: {
  phases: PlanView["phases"];
  moved?: string[];
  since?: Record<string, string>;
}) {
  const order = ["calm", "restore", "load", "spring", "transition", "maintain"];
  return (
    <section aria-label="Phases" className="mb-6">
      <Title aside="the more cautious region rules what they share">Phases</Title>
      {moved.length > 0 && (
        <p className="mb-2 border-l-4 border-edge bg-paper p-3">
          Since the plan was made: {moved.join("; ")}.
        </p>
      )}
      <ul>
        {phases.map((p) => (
          <li
            key={p.region}
            className="grid gap-x-4 border-b border-rule py-1.5 md:grid-cols-[11rem_17rem_minmax(0,1fr)]"
          >
            <b>{capital(p.name)}</b>
            <span className="flex items-center gap-1">
              {order.slice(0, 4).map((o) => (
                <span
                  key={o}
                  aria-hidden={o !== p.phase}
                  className={`rounded-[3px] border px-1.5 text-[13px] ${o === p.phase ? "border-ink bg-ink text-chalk" : "border-rule text-ink-2"}`}
                >
                  {o}
                </span>
              ))}
              {order.indexOf(p.phase) > 3 && (
                <span className="rounded-[3px] border border-ink bg-ink px-1.5 text-[13px] text-chalk">
                  {p.phase}
                </span>
              )}
            </span>
            <span className="text-[14px]">
              {since[p.region] && <b>Since {dayMonth(since[p.region] ?? "")}. </b>}
              {capital(p.why)}.{" "}
              <Reasons label="ways on and back" title={`${capital(p.name)}: ${p.phase}`}>
                {p.on && (
                  <p>
                    <b>On:</b> {p.on}.
                  </p>
                )}
                {p.back && (
                  <p className="mt-1">
                    <b>Back:</b> {p.back}.
                  </p>
                )}
                <Source text={p.source.why ?? ""} />
              </Reasons>
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

export function LeftOut({ left }: { left: PlanView["left"] }) {
  if (left.length === 0) return null;
  return (
    <section aria-label="Left out" className="mb-6">
      <Title>Looked at and left out</Title>
      <ul>
        {left.map((l) => (
          <li
            key={l.ladder}
            className="grid gap-x-4 border-b border-rule py-1.5 md:grid-cols-[17rem_minmax(0,1fr)]"
          >
            <span>
              <b>{l.name}</b> <span className="text-ink-2">for {l.for}</span>
            </span>
            <span>
              {capital(l.why)}.{l.later && <span className="text-ink-2"> It can come later.</span>}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

export function Minimum({ minimum }: { minimum: PlanView["minimum"] }) {
  if (minimum.length === 0) return null;
  return (
    <section aria-label="Five minutes a day" className="mb-6">
      <Title aside="when there is no time for more; never nothing">Five minutes a day</Title>
      <ul>
        {minimum.map((m) => (
          <li key={m.ladder} className="flex justify-between gap-4 border-b border-rule py-1.5">
            <span>
              <b>{m.name}</b> {m.words}
            </span>
            <span className="text-ink-2">{Math.max(1, Math.round(m.minutes))} min</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

export function Says({ says, cautions }: { says: string[]; cautions: string[] }) {
  return (
    <section aria-label="What the plan says" className="text-[14px] text-ink-2">
      <Title>What stands on the plan</Title>
      <ul className="list-disc pl-5">
        {says.map((x) => (
          <li key={x}>{x}</li>
        ))}
      </ul>
      <ul className="mt-3 border-t border-rule pt-3">
        {cautions.map((c) => (
          <li key={c}>{c}</li>
        ))}
      </ul>
    </section>
  );
}
