import { t } from "@lingui/core/macro";
import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense } from "react";
import { Link, useParams } from "react-router";
import { api, need } from "../../api/client";
import { useMe, useRunner, useScreenings, useTests } from "../../api/hooks";
import { weekDay } from "../../parts/dates";
import { Title } from "../../parts/marks";
import { RunnerHead } from "../../parts/runnerhead";
import { Sideways } from "../../parts/sideways";
import { Empty, Failed, Loading } from "../../parts/states";
import { Findings } from "../screening/findings";
import { Journal, Screenings } from "./history";

const Phone = lazy(async () => ({ default: (await import("./phone")).Phone }));

/** All screenings of a runner, and what the last one found. */
export function ScreeningsPlace() {
  const { id = "" } = useParams();
  const screenings = useScreenings(id);
  const tests = useTests();
  const broken = [screenings, tests].find((q) => q.error);
  if (broken?.error) return <Failed error={broken.error} retry={() => void broken.refetch()} />;
  if (!screenings.data || !tests.data) return <Loading what={t`the screenings`} />;
  const list = screenings.data.items;
  const done = list.find((s) => s.finished);
  return (
    <>
      <RunnerHead id={id} here="screenings" quiet />
      {list.length === 0 ? (
        <Empty title={t`No screening yet`}>
          {t`A whole one takes 20 to 25 minutes, a quick one about 8: start it above. What is not measured stays open.`}
        </Empty>
      ) : (
        <>
          <Sideways label={t`Screenings`} className="mb-6">
            <Screenings
              list={list}
              tests={tests.data.items.filter(
                (item) => item.quick && item.sided && item.unit !== "class" && item.unit !== "/10",
              )}
              id={id}
            />
          </Sideways>
          {done && <Findings findings={done.findings} />}
        </>
      )}
    </>
  );
}

/** All clips of a runner, newest first, and where new ones are brought in. */
export function ClipsPlace() {
  const { id = "" } = useParams();
  const clips = useQuery({
    queryKey: ["runner-clips", id],
    queryFn: () => need(api.GET("/api/runners/{id}/clips", { params: { path: { id } } })),
  });
  const screenings = useScreenings(id);
  const broken = [clips, screenings].find((q) => q.error);
  if (broken?.error) return <Failed error={broken.error} retry={() => void broken.refetch()} />;
  if (!clips.data || !screenings.data) return <Loading what={t`the clips`} />;
  const last = screenings.data.items[0];
  return (
    <>
      <RunnerHead id={id} here="clips" quiet>
        {last && (
          <Link className="btn" to={`/screenings/${last.id}/clips`}>
            {t`Bring in a clip`}
          </Link>
        )}
      </RunnerHead>
      {clips.data.items.length === 0 ? (
        <Empty title={t`No clip yet`}>
          {last
            ? t`Film square-on, at hip height, from 4 m or more, and bring the clip in above.`
            : t`Clips belong to a screening: start one first.`}
        </Empty>
      ) : (
        <ul>
          {clips.data.items.map((c) => (
            <li key={c.id} className="border-b border-rule">
              <Link
                to={`/clips/${c.id}`}
                className="flex min-h-12 flex-wrap items-center gap-x-6 hover:bg-paper"
              >
                <b className="min-w-48 [overflow-wrap:anywhere]">{c.name}</b>
                <span className="text-ink-2">{weekDay(c.on)}</span>
              </Link>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}

/** What happened, line by line, and what came from the runner's phone. */
export function JournalPlace() {
  const { id = "" } = useParams();
  const me = useMe();
  const runner = useRunner(id);
  if (runner.error) return <Failed error={runner.error} retry={() => void runner.refetch()} />;
  if (!runner.data) return <Loading what={t`the journal`} />;
  return (
    <>
      <RunnerHead id={id} name={runner.data.name} here="journal" />
      <div className="grid gap-x-10 gap-y-6 lg:grid-cols-[minmax(0,1fr)_24rem]">
        <div className="min-w-0">
          <Journal id={id} />
        </div>
        <div className="min-w-0">
          {me.data && me.data.role !== "viewer" && (
            <Suspense fallback={null}>
              <Phone id={id} name={runner.data.name} />
            </Suspense>
          )}
          {runner.data.note && (
            <section aria-label={t`Note`}>
              <Title>{t`Note`}</Title>
              <p className="whitespace-pre-wrap">{runner.data.note}</p>
            </section>
          )}
        </div>
      </div>
    </>
  );
}
