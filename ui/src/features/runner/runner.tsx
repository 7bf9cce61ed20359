import { lazy, Suspense } from "react";
import { Link, useParams } from "react-router";
import { useBlock, useMe, useRunner, useScreenings, useTests } from "../../api/hooks";
import { CarePage } from "../../parts/care";
import { dayMonth } from "../../parts/dates";
import { Title } from "../../parts/marks";
import { Failed, Loading } from "../../parts/states";
import { LadderRow } from "../block/ladder";
import { Asks, Paused } from "../block/paused";
import { Phases } from "../block/planside";
import { Caps, FlagList } from "../block/state";
import { useLoad } from "../running/hooks";
import { Timeline } from "../running/timeline";
import { Findings } from "../screening/findings";
import { Journal, Screenings } from "./history";
import { Next } from "./next";

const Phone = lazy(async () => ({ default: (await import("./phone")).Phone }));

export function RunnerView() {
  const { id = "" } = useParams();
  const me = useMe();
  const runner = useRunner(id);
  const screenings = useScreenings(id);
  const block = useBlock(id);
  const tests = useTests();
  const load = useLoad(id, 8);
  const broken = [runner, screenings, block, tests].find((q) => q.error);
  if (broken?.error) return <Failed error={broken.error} retry={() => void broken.refetch()} />;
  if (!runner.data || !screenings.data || block.data === undefined || !tests.data)
    return <Loading what="the runner" />;
  const r = runner.data;
  const list = screenings.data.items;
  const done = list.filter((s) => s.finished);
  const open = list.find((s) => !s.finished);
  const facts = [
    r.age !== undefined && `${r.age} years`,
    r.weeklyKm !== undefined && `${r.weeklyKm} km a week`,
    r.massKg !== undefined && `${r.massKg} kg`,
    r.intakeFirstStep !== undefined && `first steps usually ${r.intakeFirstStep}`,
  ].filter(Boolean);
  return (
    <>
      <div className="mb-1 flex flex-wrap items-end gap-x-5 gap-y-2">
        <h1>{r.name}</h1>
        <p className="text-ink-2">{facts.join(" · ")}</p>
        <Link className="btn-quiet ml-auto" to={`/runners/${id}/runs`}>
          running
        </Link>
        <Link className="btn-quiet" to={`/runners/${id}/ramp`}>
          ramps
        </Link>
        <a className="btn-quiet" href={`/api/runners/${id}/pack`} download>
          take everything along
        </a>
        {me.data?.role === "owner" && (
          <Link className="btn-quiet" to={`/practice/access?runner=${id}`}>
            who looked
          </Link>
        )}
        <Link className="btn-quiet" to={`/runners/${id}/edit`}>
          edit profile
        </Link>
      </div>
      {r.importedAt && (
        <p className="mb-2 text-[14px] text-ink-2">
          Imported on {dayMonth(r.importedAt.slice(0, 10))}, from {r.importedFrom} as the file says.
          Clearances and waivers from there don’t count here; they stand in the journal.
        </p>
      )}
      {r.goal && <p className="mb-4 text-[17px]">{r.goal}</p>}
      <Next id={id} open={open} latest={done[0]} hasBlock={!!block.data} />
      {block.data?.care && <CarePage care={block.data.care} />}
      {block.data && <Asks list={block.data.asks} runner={id} />}
      {block.data && !block.data.care && <FlagList b={block.data} />}
      {block.data && !block.data.care && <Caps b={block.data} />}
      {load.data && (load.data.weeks.some((w) => w.runs > 0) || block.data) && (
        <>
          <p className="mb-4">
            <b>{load.data.adviceText}</b> <span className="text-ink-2">Because {load.data.adviceWhy}.</span>{" "}
            {load.data.warning && <b className="text-clay">▲ {load.data.warning}</b>}
          </p>
          <Timeline v={load.data} />
        </>
      )}
      {block.data && !block.data.care && (
        <section aria-label="Ladders" className="mb-6">
          <Title
            aside={
              <Link to={`/runners/${id}/block`} className="btn-quiet">
                the whole block
              </Link>
            }
          >
            Ladders
          </Title>
          {block.data.prescriptions
            .filter((p) => !p.leftOut)
            .map((p) => (
              <LadderRow key={p.id} p={p} b={block.data ?? undefined} />
            ))}
        </section>
      )}
      {block.data && !block.data.care && <Paused list={block.data.paused} />}
      {block.data && !block.data.care && (
        <div className="mb-6">
          <Phases phases={block.data.phases} moved={[]} since={block.data.phaseSince} />
        </div>
      )}
      {done[0] && (
        <div className="mb-6">
          <Findings findings={done[0].findings} />
        </div>
      )}
      <div className="grid gap-x-8 gap-y-6 lg:grid-cols-2">
        {list.length > 0 && (
          <Screenings
            list={list}
            tests={tests.data.items.filter(
              (t) => t.quick && t.sided && t.unit !== "class" && t.unit !== "/10",
            )}
            id={id}
          />
        )}
        <div>
          {me.data && me.data.role !== "viewer" && (
            <Suspense fallback={null}>
              <Phone id={id} name={r.name} />
            </Suspense>
          )}
          <Journal id={id} />
        </div>
      </div>
      {r.note && (
        <section className="mt-6" aria-label="Note">
          <Title>Note</Title>
          <p className="whitespace-pre-wrap">{r.note}</p>
        </section>
      )}
    </>
  );
}
