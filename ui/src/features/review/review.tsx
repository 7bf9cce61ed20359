import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useCallback, useEffect, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, need, type Schema } from "../../api/client";
import { useBench, useKeepBlock } from "../../api/hooks";
import { dayMonth } from "../../parts/dates";
import { useKeys } from "../../parts/keys";
import { Title } from "../../parts/marks";
import { RunnerHead } from "../../parts/runnerhead";
import { Empty, Failed, Loading, SaveState } from "../../parts/states";
import { LadderRow } from "../block/ladder";
import { FlagList } from "../block/state";
import { useTouch } from "../running/hooks";
import { shift, WeekStrip } from "./week";

const Phone = lazy(async () => ({ default: (await import("../runner/phone")).Phone }));

export type Week = Schema["ReviewWeek"];

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
  if (bench.isPending) return <Loading what={t`the reviews`} />;
  if (bench.error) return <Failed error={bench.error} retry={() => void bench.refetch()} />;
  if (!id)
    return (
      <Empty title={t`Nobody waits for a review`}>
        <p>{t`Every runner's week was gone through, and no step up waits.`}</p>
        <Link className="btn mt-3" to="/">
          {t`To the bench`}
        </Link>
      </Empty>
    );
  return (
    <One
      key={id}
      id={id}
      place={at >= 0 ? t`${at + 1} of ${queue.length}` : ""}
      to={to}
      done={() => {
        setPassed([...passed, id]);
        const next = queue[at + 1] ?? queue.find((i) => i.id !== id && !passed.includes(i.id));
        go(next ? `/review/${next.id}` : "/");
      }}
    />
  );
}

/** What waits for a coach first, then what was taken away. */
function rank(p: Schema["PrescriptionView"]): number {
  const of = (d: Schema["DecisionView"]) =>
    d.state === "proposed" ? 0 : d.decision.verdict === "stop" ? 1 : d.decision.verdict === "back" ? 2 : 3;
  return Math.min(...p.latest.map(of));
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
    { show: "a", does: t`accept every step up, and on to the next`, on: { a: () => end(true) } },
    { show: "d", does: t`done without accepting, and on`, on: { d: () => end(false) } },
    {
      show: "j k",
      does: t`next, previous runner`,
      on: { j: () => !busy && to(1), k: () => !busy && to(-1) },
    },
    { show: "Tab", does: t`to one decision: accept or override it` },
  ]);
  if (w.isPending) return <Loading what={t`the week`} />;
  if (w.error) return <Failed error={w.error} retry={() => void w.refetch()} />;
  const v = w.data;
  const b = v.block;
  const moving = b?.prescriptions.filter((p) => p.latest.length > 0 && !p.leftOut) ?? [];
  return (
    <>
      <RunnerHead
        id={id}
        name={v.runnerName}
        here="plan"
        slim
        quiet
        page={t`Review of the week of ${dayMonth(v.monday)}${v.done ? t`, reviewed` : ""}${place ? ` · ${place}` : ""}`}
      >
        <button type="button" className="btn-quiet" onClick={() => setMonday(shift(v.monday, -7))}>
          {t`Week before`}
        </button>
        <button type="button" className="btn" disabled={busy || !b} onClick={() => finish.mutate(false)}>
          {t`Finish without accepting`}
        </button>
        <button
          type="button"
          className="btn btn-main"
          disabled={busy || !b}
          onClick={() => finish.mutate(true)}
        >
          {proposed > 0 ? t`Accept ${proposed}, next` : t`Done, next`}
        </button>
      </RunnerHead>
      <SaveState error={finish.error} saving={busy} />
      {left.length > 0 && (
        <div role="alert" className="mb-4 border-l-4 border-ink bg-paper p-3">
          <p>{t`Not accepted:`}</p>
          <ul className="list-disc pl-5">
            {left.map((x) => (
              <li key={x}>{x}</li>
            ))}
          </ul>
          <button type="button" className="btn mt-2 min-h-8" onClick={done}>
            {t`On to the next`}
          </button>
        </div>
      )}
      {b && <FlagList b={b} />}
      <WeekStrip v={v} />
      <Suspense fallback={null}>
        <Phone id={id} name={v.runnerName} />
      </Suspense>
      {!b ? (
        <Empty title={t`No block`}>
          <p>{t`There is nothing to decide without a block.`}</p>
        </Empty>
      ) : (
        <section aria-label={t`Decisions`} className="mb-6">
          <Title
            aside={
              <Trans>
                a step up waits for you; a step back was applied at once{" "}
                <Link className="btn-quiet" to="/engine">
                  The engine
                </Link>
              </Trans>
            }
          >
            {t`Decisions`}
          </Title>
          {b.caps.map((c) => (
            <p key={c} className="mb-2 border-l-4 border-clay bg-paper p-3">
              {c}
            </p>
          ))}
          {moving.length === 0 && <p className="text-ink-2">{t`No session was logged yet.`}</p>}
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
