import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, freshKey, need, type Schema } from "../api/client";
import { useBlock, useJournal, useMe, useRunner, useScreenings, useTests } from "../api/hooks";
import { Caps, FlagList } from "../block/block";
import { LadderRow } from "../block/ladder";
import { Asks, Paused } from "../block/paused";
import { Phases } from "../block/plan";
import { useLoad } from "../load/hooks";
import { Timeline } from "../load/timeline";
import { CarePage } from "../parts/care";
import { dayMonth, moment, weekDay } from "../parts/dates";
import { SideName, Title } from "../parts/marks";
import { show } from "../parts/numbers";
import { Failed, Loading, SaveState } from "../parts/states";
import { Findings } from "../screening/findings";

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
        <a
          className="btn-quiet"
          href={`/api/runners/${id}/bundle`}
          download={`${r.name.toLowerCase().replaceAll(/[^a-z0-9]+/g, "-")}.json`}
        >
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
        <Journal id={id} />
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

/** The one obvious next step of this runner. */
function Next({
  id,
  open,
  latest,
  hasBlock,
}: {
  id: string;
  open: Schema["Screening"] | undefined;
  latest: Schema["Screening"] | undefined;
  hasBlock: boolean;
}) {
  const go = useNavigate();
  const qc = useQueryClient();
  const [key] = useState(freshKey);
  const start = useMutation({
    mutationFn: () =>
      need(
        api.POST("/api/runners/{id}/screenings", {
          body: { footwear: "barefoot" },
          params: { path: { id }, header: { "Idempotency-Key": key } },
        }),
      ),
    onSuccess: (s) => {
      void qc.invalidateQueries({ queryKey: ["screenings", id] });
      void qc.invalidateQueries({ queryKey: ["bench"] });
      go(`/screenings/${s.id}`);
    },
  });
  const screen = (main: boolean) => (
    <button
      type="button"
      className={`btn ${main ? "btn-main" : ""}`}
      disabled={start.isPending}
      onClick={() => start.mutate()}
    >
      {latest ? "Screen again" : "Start the screening"}
    </button>
  );
  return (
    <div className="mb-5 flex flex-wrap items-center gap-3">
      {open ? (
        <Link className="btn btn-main" to={`/screenings/${open.id}`}>
          Go on with the screening
        </Link>
      ) : hasBlock ? (
        <>
          <Link className="btn btn-main" to={`/runners/${id}/log`}>
            Log a session
          </Link>
          {screen(false)}
        </>
      ) : latest ? (
        <>
          <Link className="btn btn-main" to={`/runners/${id}/plan`}>
            Plan the block
          </Link>
          <Link className="btn" to={`/screenings/${latest.id}`}>
            Look at the findings
          </Link>
          {screen(false)}
        </>
      ) : (
        screen(true)
      )}
      <SaveState error={start.error} saving={start.isPending} />
    </div>
  );
}

function Screenings({
  list,
  tests,
  id,
}: {
  list: Schema["Screening"][];
  tests: Schema["ScreeningTest"][];
  id: string;
}) {
  return (
    <section aria-label="Screenings">
      <Title
        aside={
          list.length > 1 && (
            <Link className="btn-quiet" to={`/runners/${id}/compare`}>
              side by side
            </Link>
          )
        }
      >
        Screenings
      </Title>
      <table className="w-full border-collapse text-[14px]">
        <thead>
          <tr className="border-b border-rule text-left">
            <th scope="col" className="py-1 font-semibold">
              Date
            </th>
            {tests.map((t) => (
              <th key={t.id} scope="col" className="py-1 text-right font-semibold">
                {t.name}
                <span className="flex justify-end gap-3 font-normal">
                  <SideName side="left" />
                  <SideName side="right" />
                </span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {list.map((s) => (
            <tr key={s.id} className="border-b border-rule">
              <th scope="row" className="py-1.5 text-left font-normal">
                <Link className="underline underline-offset-4" to={`/screenings/${s.id}`}>
                  {weekDay(s.on)}
                </Link>
                {!s.finished && <span className="block text-ink-2">not finished</span>}
                {s.imported && <span className="block text-ink-2">imported</span>}
              </th>
              {tests.map((t) => {
                const r = s.results.find((x) => x.test === t.id);
                const v = (n: number | undefined) => (n === undefined ? "–" : show(n, t.decimals));
                return (
                  <td key={t.id} className="py-1.5 text-right whitespace-nowrap">
                    <span className="inline-block w-14">{v(r?.left.value)}</span>
                    <span className="inline-block w-16">{v(r?.right.value)}</span>
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

const kinds: [string, string][] = [
  ["", "everything"],
  ["decision", "decisions"],
  ["answer", "answers"],
  ["plan", "plan"],
  ["flag", "flags"],
  ["run", "runs"],
  ["day", "days"],
  ["session", "sessions"],
];

function Journal({ id }: { id: string }) {
  const j = useJournal(id);
  const [all, setAll] = useState(false);
  const [kind, setKind] = useState("");
  const [find, setFind] = useState("");
  if (!j.data) return null;
  const fits = j.data.items.filter(
    (l) => (!kind || l.kind === kind) && l.sentence.toLowerCase().includes(find.toLowerCase()),
  );
  const lines = all ? fits : fits.slice(0, 12);
  return (
    <section aria-label="Journal">
      <Title aside={`${fits.length} lines`}>Journal</Title>
      <div className="mb-2 flex gap-3">
        <select
          className="field min-h-9 w-40 py-1"
          aria-label="Kind of journal line"
          value={kind}
          onChange={(e) => setKind(e.target.value)}
        >
          {kinds.map(([v, n]) => (
            <option key={v} value={v}>
              {n}
            </option>
          ))}
        </select>
        <input
          type="search"
          className="field min-h-9 py-1"
          aria-label="Find in the journal"
          placeholder="find"
          value={find}
          onChange={(e) => setFind(e.target.value)}
        />
      </div>
      <ol>
        {lines.map((l) => (
          <li key={l.id} className="border-b border-rule py-1.5 text-[14px]">
            <span className="text-ink-2">
              {moment(l.at)} · {l.imported ? "imported" : l.by || "engine"}
            </span>
            <span className="block">{l.sentence}</span>
          </li>
        ))}
      </ol>
      {!all && fits.length > lines.length && (
        <button type="button" className="btn-quiet mt-2" onClick={() => setAll(true)}>
          Show all {fits.length}
        </button>
      )}
    </section>
  );
}
