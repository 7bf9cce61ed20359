import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, need, type Schema } from "../api/client";
import { useBench, useKeepBlock } from "../api/hooks";
import { FlagList } from "../block/block";
import { LadderRow } from "../block/ladder";
import { km, useTouch } from "../load/hooks";
import { dayMonth, weekDay } from "../parts/dates";
import { useKeys } from "../parts/keys";
import { Title } from "../parts/marks";
import { Empty, Failed, Loading, SaveState } from "../parts/states";

type Week = Schema["ReviewWeek"];

const useReview = (runner: string, monday: string) =>
  useQuery({
    queryKey: ["review", runner, monday],
    queryFn: () =>
      need(
        api.GET("/api/runners/{id}/review", {
          params: { path: { id: runner }, query: monday ? { monday } : {} },
        }),
      ),
  });

const waits = (i: Schema["BenchItem"]) =>
  [i.next, ...i.more].some((n) =>
    ["review", "decide", "flare", "stopped", "flag", "no-running"].includes(n.kind),
  ) && i.blockWeek !== undefined;

/** One runner's week after the other: what came in, what it decides. */
export function ReviewView() {
  const { id } = useParams();
  const go = useNavigate();
  const bench = useBench("");
  const [passed, setPassed] = useState<string[]>([]);
  const queue = (bench.data?.pages.flatMap((p) => p.items) ?? []).filter((i) => waits(i) || i.id === id);
  const first = queue.find((i) => !passed.includes(i.id)) ?? queue[0];
  const at = id ? queue.findIndex((i) => i.id === id) : -1;
  const to = useCallback(
    (by: number) => {
      const next = queue[at + by];
      if (next) go(`/review/${next.id}`);
    },
    [queue, at, go],
  );
  useEffect(() => {
    if (!id && first) go(`/review/${first.id}`, { replace: true });
  }, [id, first, go]);
  if (bench.isPending) return <Loading what="the reviews" />;
  if (bench.error) return <Failed error={bench.error} retry={() => void bench.refetch()} />;
  if (!id)
    return (
      <Empty title="Nobody waits for a review">
        <p>Every runner's week was gone through, and no step up waits.</p>
        <Link className="btn mt-3" to="/">
          To the bench
        </Link>
      </Empty>
    );
  return (
    <One
      key={id}
      id={id}
      place={at >= 0 ? `${at + 1} of ${queue.length}` : ""}
      to={to}
      done={() => {
        setPassed([...passed, id]);
        const next = queue[at + 1] ?? queue.find((i) => i.id !== id && !passed.includes(i.id));
        go(next ? `/review/${next.id}` : "/");
      }}
    />
  );
}

function One({
  id,
  place,
  to,
  done,
}: {
  id: string;
  place: string;
  to: (by: number) => void;
  done: () => void;
}) {
  const [monday, setMonday] = useState("");
  const w = useReview(id, monday);
  const keep = useKeepBlock();
  const qc = useQueryClient();
  const touch = useTouch(id);
  const [left, setLeft] = useState<string[]>([]);
  const finish = useMutation({
    mutationFn: (accept: boolean) =>
      need(
        api.POST("/api/runners/{id}/review", {
          params: { path: { id } },
          body: { accept, monday: w.data?.monday },
        }),
      ),
    onSuccess: (out) => {
      keep(out.block);
      setLeft(out.left);
      touch();
      void qc.invalidateQueries({ queryKey: ["bench"] });
      if (out.left.length === 0) done();
    },
  });
  const busy = finish.isPending;
  const proposed = w.data?.block?.decisions.filter((d) => d.state === "proposed").length ?? 0;
  const end = (accept: boolean) => !busy && w.data?.block && finish.mutate(accept);
  useKeys([
    { show: "a", does: "accept every step up, and on to the next", on: { a: () => end(true) } },
    { show: "d", does: "done without accepting, and on", on: { d: () => end(false) } },
    {
      show: "j k",
      does: "next, previous runner",
      on: { j: () => !busy && to(1), k: () => !busy && to(-1) },
    },
    { show: "Tab", does: "to one decision: accept or override it" },
  ]);
  if (w.isPending) return <Loading what="the week" />;
  if (w.error) return <Failed error={w.error} retry={() => void w.refetch()} />;
  const v = w.data;
  const b = v.block;
  const moving = b?.prescriptions.filter((p) => p.latest.length > 0 && !p.leftOut) ?? [];
  const rank = (p: Schema["PrescriptionView"]) =>
    Math.min(
      ...p.latest.map((d) =>
        d.state === "proposed"
          ? 0
          : d.decision.verdict === "stop"
            ? 1
            : d.decision.verdict === "back"
              ? 2
              : 3,
      ),
    );
  return (
    <>
      <div className="mb-4 flex flex-wrap items-end gap-x-5 gap-y-2">
        <h1>
          <Link to={`/runners/${id}`} className="hover:underline">
            {v.runnerName}
          </Link>
        </h1>
        <p className="mr-auto text-ink-2">
          Week of {dayMonth(v.monday)}
          {v.done && ", reviewed"} {place && `· ${place}`}
        </p>
        <button type="button" className="btn-quiet" onClick={() => setMonday(shift(v.monday, -7))}>
          week before
        </button>
        <button type="button" className="btn" disabled={busy || !b} onClick={() => finish.mutate(false)}>
          Done, accept nothing
        </button>
        <button
          type="button"
          className="btn btn-main"
          disabled={busy || !b}
          onClick={() => finish.mutate(true)}
        >
          {proposed > 0 ? `Accept ${proposed}, next` : "Done, next"}
        </button>
      </div>
      <SaveState error={finish.error} saving={busy} />
      {left.length > 0 && (
        <div role="alert" className="mb-4 border-l-4 border-ink bg-paper p-3">
          <p>Not accepted:</p>
          <ul className="list-disc pl-5">
            {left.map((x) => (
              <li key={x}>{x}</li>
            ))}
          </ul>
          <button type="button" className="btn mt-2 min-h-8" onClick={done}>
            On to the next
          </button>
        </div>
      )}
      {b && <FlagList b={b} />}
      <WeekStrip v={v} />
      {!b ? (
        <Empty title="No block">
          <p>There is nothing to decide without a block.</p>
        </Empty>
      ) : (
        <section aria-label="Decisions" className="mb-6">
          <Title
            aside={
              <>
                a step up waits for you; a step back was applied at once{" "}
                <Link className="btn-quiet" to="/engine">
                  the engine
                </Link>
              </>
            }
          >
            Decisions
          </Title>
          {b.caps.map((c) => (
            <p key={c} className="mb-2 border-l-4 border-clay bg-paper p-3">
              {c}
            </p>
          ))}
          {moving.length === 0 && <p className="text-ink-2">No session was logged yet.</p>}
          {[...moving]
            .sort((x, y) => rank(x) - rank(y))
            .map((p) => (
              <LadderRow key={p.id} p={p} />
            ))}
        </section>
      )}
    </>
  );
}

const shift = (iso: string, n: number) =>
  new Date(new Date(`${iso}T00:00:00Z`).getTime() + n * 86_400_000).toISOString().slice(0, 10);

/** Runs, sessions and pain of the week in one strip, and what running says. */
function WeekStrip({ v }: { v: Week }) {
  return (
    <section aria-label="The week" className="mb-6 grid gap-x-8 gap-y-4 lg:grid-cols-[minmax(0,1fr)_22rem]">
      <section
        className="min-w-0 overflow-x-auto"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
        tabIndex={0}
        aria-label="Days of the week, scrolls sideways"
      >
        <table className="w-full min-w-[38rem] table-fixed border-collapse text-[14px]">
          <thead>
            <tr className="border-b-2 border-ink text-left">
              <th scope="col" className="w-24 py-1">
                <span className="sr-only">What</span>
              </th>
              {v.days.map((d) => (
                <th key={d.on} scope="col" className="py-1 font-semibold">
                  {weekDay(d.on).slice(0, 6)}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            <Line name="First steps" days={v.days} of={(d) => d.firstStep} />
            <Line name="At rest" days={v.days} of={(d) => d.rest} />
            <tr className="border-b border-rule">
              <th scope="row" className="py-1 text-left font-normal text-ink-2">
                Session
              </th>
              {v.days.map((d) => (
                <td key={d.on}>
                  {d.logged ? (
                    <b className="text-pine">done{d.pain !== undefined && `, pain ${d.pain}`}</b>
                  ) : d.plannedMinutes > 0 ? (
                    <span className="text-ink-2">{d.plannedMinutes}′ open</span>
                  ) : (
                    ""
                  )}
                </td>
              ))}
            </tr>
            <tr className="border-b border-rule">
              <th scope="row" className="py-1 text-left font-normal text-ink-2">
                Run
              </th>
              {v.days.map((d) => (
                <td key={d.on}>
                  {d.km > 0 && (
                    <>
                      <b>{d.km.toFixed(1)}</b> km
                      {d.runPain !== undefined && d.runPain > 0 && (
                        <span className="text-clay"> pain {d.runPain}</span>
                      )}
                    </>
                  )}
                </td>
              ))}
            </tr>
            {v.days.some((d) => d.notes.length > 0) && (
              <tr>
                <th scope="row" className="py-1 text-left font-normal text-ink-2">
                  Notes
                </th>
                {v.days.map((d) => (
                  <td key={d.on} className="pr-1 align-top text-[13px]">
                    {d.notes.join(", ")}
                  </td>
                ))}
              </tr>
            )}
          </tbody>
        </table>
      </section>
      <div className="text-[14px]">
        <p className="text-[15px]">
          <b>{v.week ? `${km(v.week.metres)} km` : "No runs"}</b> {v.week?.words}
        </p>
        <p>
          <b>{v.advice}</b> <span className="text-ink-2">Because {v.adviceWhy}.</span>
        </p>
        {v.warning && <p className="font-semibold text-clay">▲ {v.warning}</p>}
        {v.look.map((l) => (
          <p key={l} className="text-ink-2">
            {l}
          </p>
        ))}
      </div>
    </section>
  );
}

function Line({
  name,
  days,
  of,
}: {
  name: string;
  days: readonly Schema["ReviewDay"][];
  of: (d: Schema["ReviewDay"]) => number | undefined;
}) {
  if (name === "At rest" && days.every((d) => of(d) === undefined)) return null;
  return (
    <tr className="border-b border-rule">
      <th scope="row" className="py-1 text-left font-normal text-ink-2">
        {name}
      </th>
      {days.map((d) => (
        <td key={d.on}>
          {of(d) === undefined ? <span className="text-ink-2">not known</span> : <b>{of(d)}</b>}
        </td>
      ))}
    </tr>
  );
}
