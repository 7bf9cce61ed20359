import { useRef, useState } from "react";
import { Link, useParams } from "react-router";
import { api, NoConnection, need, Problem, type Schema } from "../api/client";
import { useRunner } from "../api/hooks";
import { weekDay } from "../parts/dates";
import { Field } from "../parts/field";
import { useKeys } from "../parts/keys";
import { Title } from "../parts/marks";
import { Failed, Loading, SaveState } from "../parts/states";
import { Why } from "../parts/why";
import {
  km,
  type LoadView,
  type Run,
  type RunInput,
  useLoad,
  useRunChange,
  useRuns,
  useTouch,
  useZones,
} from "./hooks";
import { Timeline } from "./timeline";
import { TypeRun } from "./typed";

/** A runner's running: what comes in, what it adds up to, what it allows. */
export function RunsView() {
  const { id = "" } = useParams();
  const runner = useRunner(id);
  const runs = useRuns(id);
  const [weeks, setWeeks] = useState(8);
  const load = useLoad(id, weeks);
  useKeys([{ show: "← →", does: "read a day of the time axis" }]);
  const broken = [runner, runs, load].find((q) => q.error);
  if (broken?.error) return <Failed error={broken.error} retry={() => void broken.refetch()} />;
  if (!runner.data || !runs.data || !load.data) return <Loading what="the runs" />;
  const v = load.data;
  return (
    <>
      <div className="mb-4 flex flex-wrap items-end gap-x-5 gap-y-2">
        <h1>
          <Link to={`/runners/${id}`} className="hover:underline">
            {runner.data.name}
          </Link>
        </h1>
        <p className="mr-auto text-ink-2">Running</p>
        <label className="flex items-center gap-2 text-[14px]">
          weeks
          <select
            className="field min-h-9 w-auto py-1"
            value={weeks}
            onChange={(e) => setWeeks(Number(e.target.value))}
          >
            {[4, 8, 12, 26, 52].map((w) => (
              <option key={w}>{w}</option>
            ))}
          </select>
        </label>
        <a className="btn" href={`/api/runners/${id}/runs/files/csv`} download>
          CSV
        </a>
        <a className="btn" href={`/api/runners/${id}/runs/files/gpx`} download>
          GPX
        </a>
      </div>
      <Allows v={v} id={id} />
      <Timeline v={v} />
      <div className="grid gap-x-9 gap-y-6 lg:grid-cols-[minmax(0,1fr)_22rem]">
        <div className="min-w-0">
          <WeekTable v={v} />
          <RunTable id={id} runs={runs.data.items} />
        </div>
        <div>
          <Bring id={id} />
          <TypeRun id={id} today={v.today} />
        </div>
      </div>
    </>
  );
}

/** What running allows now: advice, the week, each component by its own rule. */
export function Allows({ v, id }: { v: LoadView; id: string }) {
  const [plan, setPlan] = useState<string>();
  const put = useRunChange(id, (n: number) =>
    need(
      api.PUT("/api/runners/{id}/planned-weeks/{on}", {
        params: { path: { id, on: v.next.monday } },
        body: { km: n },
      }),
    ),
  );
  const stop = v.advice.id === "no-running" || v.advice.id === "skip-next";
  const planned = plan ?? km(v.next.metres);
  return (
    <div className="mb-6 grid gap-x-8 gap-y-4 lg:grid-cols-[minmax(0,1fr)_minmax(0,1.25fr)]">
      <div className={`border-l-4 bg-paper p-4 ${stop ? "border-clay" : "border-pine"}`}>
        <p className={`display text-[20px] leading-snug font-semibold ${stop ? "text-clay" : ""}`}>
          {stop && <span aria-hidden="true">▲ </span>}
          {v.adviceText}
        </p>
        <p className="text-ink-2">Because {v.adviceWhy}.</p>
        {v.advice.return && (
          <p className="mt-1">
            <Link className="btn-quiet" to={`/runners/${id}/block`}>
              add the ladder “Back to running” to the block
            </Link>
          </p>
        )}
        <p className="mt-2">
          This week: <b>{v.words}</b>
          {v.running.week.steadyToMetres > 0 && `, steady to ${km(v.running.week.steadyToMetres)} km`}
          {v.running.long.longestMetres > 0 &&
            `; longest run ${km(v.running.long.metres)} km against ${km(v.running.long.longestMetres)} in the 30 days before it`}
          .
        </p>
        <form
          className="mt-3 flex flex-wrap items-end gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            put.mutate(Number(planned.replace(",", ".")));
          }}
        >
          <Field
            label={<span className="text-[14px] font-normal">Planned next week, km</span>}
            className="w-44"
            inputMode="decimal"
            value={planned}
            error={put.error instanceof Problem ? put.error.fields.km : undefined}
            onChange={(e) => setPlan(e.target.value)}
          />
          <button type="submit" className="btn" disabled={put.isPending}>
            Plan
          </button>
          <span className="pb-2 text-[14px] text-ink-2">{v.next.words}</span>
        </form>
        {v.warning && (
          <p role="alert" className="mt-2 font-semibold text-clay">
            <span aria-hidden="true">▲ </span>
            {v.warning}
          </p>
        )}
      </div>
      <div>
        <ul>
          {v.components.map((c) => (
            <li
              key={c.component}
              className="grid grid-cols-[6rem_1fr_auto] gap-x-4 border-b border-rule py-1.5 text-[14px]"
            >
              <b className="text-[15px]">{c.component}</b>
              <span>
                {c.state}
                <span className="block text-ink-2">{c.rule}</span>
              </span>
              <b className={c.holds ? "text-clay" : "text-pine"}>{c.holds ? "▬ holds" : "free"}</b>
            </li>
          ))}
        </ul>
        {v.missing.length > 0 && (
          <ul className="mt-2 list-disc pl-5 text-[14px] text-ink-2">
            {v.missing.map((m) => (
              <li key={m}>{m}</li>
            ))}
          </ul>
        )}
        <details className="mt-1 text-[13px] text-ink-2">
          <summary>sources</summary>
          {v.sources.map((s) => (
            <p key={s}>{s}</p>
          ))}
        </details>
      </div>
    </div>
  );
}

function WeekTable({ v }: { v: LoadView }) {
  return (
    <section aria-label="Weeks" className="mb-6">
      <Title>Weeks</Title>
      <table className="w-full border-collapse text-right text-[14px]">
        <thead>
          <tr className="border-b border-rule text-ink-2">
            <th scope="col" className="text-left font-normal">
              From
            </th>
            {["km", "min", "longest", "load", "contacts", ""].map((h) => (
              <th key={h} scope="col" className="py-1 font-normal">
                {h || <span className="sr-only">against four weeks</span>}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {[...v.weeks].reverse().map((w) => (
            <tr key={w.monday} className="border-b border-rule">
              <th scope="row" className="py-1 text-left font-normal">
                {weekDay(w.monday)}
              </th>
              <td>
                <b>{km(w.metres)}</b>
                {w.plannedMetres !== undefined && (
                  <span className="text-ink-2"> of {km(w.plannedMetres)}</span>
                )}
              </td>
              <td>{Math.round(w.seconds / 60)}</td>
              <td>{w.longestMetres > 0 ? km(w.longestMetres) : "–"}</td>
              <td>
                {w.runs === w.noEffort ? "–" : Math.round(w.sessionLoad)}
                {w.noEffort > 0 && w.runs > w.noEffort && (
                  <span className="text-ink-2"> +{w.noEffort} open</span>
                )}
              </td>
              <td>{w.runs ? Math.round(w.contacts / 100) * 100 : "–"}</td>
              <td
                className={`pl-4 text-left ${w.week.class === "spike" ? "font-semibold text-clay" : "text-ink-2"}`}
              >
                {w.words}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

const painOptions = Array.from({ length: 11 }, (_, i) => i);

function RunTable({ id, runs }: { id: string; runs: readonly Run[] }) {
  const [many, setMany] = useState(12);
  if (runs.length === 0)
    return (
      <section aria-label="Runs">
        <Title>Runs</Title>
        <p className="text-ink-2">No run yet. Drop files from a watch, or type one.</p>
      </section>
    );
  return (
    <section aria-label="Runs">
      <Title aside="each change is kept at once">Runs</Title>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard */}
      <section className="overflow-x-auto" tabIndex={0} aria-label="Runs, scrolls sideways">
        <table className="w-full min-w-[46rem] border-collapse text-[14px]">
          <thead>
            <tr className="text-left text-ink-2">
              {["Day", "km", "min", "spm", "Effort", "Pain", "Where", "Limping", "Shoes", ""].map((h) => (
                <th key={h} scope="col" className="py-1 pr-2 font-normal">
                  {h || <span className="sr-only">take out</span>}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {runs.slice(0, many).map((r) => (
              <RunRow key={r.id} id={id} r={r} />
            ))}
          </tbody>
        </table>
      </section>
      {runs.length > many && (
        <button type="button" className="btn-quiet mt-2" onClick={() => setMany(runs.length)}>
          Show all {runs.length}
        </button>
      )}
    </section>
  );
}

function RunRow({ id, r }: { id: string; r: Run }) {
  const zones = useZones();
  // Two fields may be filled faster than the list is read again: the second goes
  // on from what the first one was answered.
  const newest = useRef(r);
  if (r.rev > newest.current.rev) newest.current = r;
  const scope = `run/${r.id}`;
  const put = useRunChange(
    id,
    async (part: Partial<RunInput>) => {
      const { id: run, rev, source: _s, hasTrack: _t, ...was } = newest.current;
      newest.current = await need(
        api.PUT("/api/runs/{id}", {
          params: { path: { id: run }, query: { rev } },
          body: { ...was, ...part },
        }),
      );
    },
    scope,
  );
  const out = useRunChange(
    id,
    (reason: string) =>
      need(
        api.DELETE("/api/runs/{id}", {
          params: { path: { id: r.id }, query: { rev: newest.current.rev, reason } },
        }),
      ),
    scope,
  );
  const [taking, setTaking] = useState(false);
  const fields = put.error instanceof Problem ? put.error.fields : {};
  const name = weekDay(r.on);
  const number = (v: string) => (v === "" ? undefined : Number(v));
  const select = "field min-h-8 px-1.5 py-0.5";
  return (
    <tr className="border-t border-rule">
      <th scope="row" className="py-1 pr-2 text-left font-normal whitespace-nowrap">
        {name} {r.startedAt && <span className="text-ink-2">{r.startedAt}</span>}
        <span className="block text-[12px] text-ink-2">
          {r.source === "typed" ? "typed" : r.source.toUpperCase()}
        </span>
      </th>
      <td className="pr-2 text-right font-semibold">{r.km.toFixed(1)}</td>
      <td className="pr-2 text-right">{Math.round(r.minutes)}</td>
      <td className="pr-2 text-right">{r.cadence ? Math.round(r.cadence) : "–"}</td>
      <td className="pr-2">
        <select
          className={select}
          aria-label={`${name}: effort`}
          value={r.effort ?? ""}
          onChange={(e) => put.mutate({ effort: number(e.target.value) })}
        >
          <option value="">–</option>
          {painOptions.map((p) => (
            <option key={p}>{p}</option>
          ))}
        </select>
      </td>
      <td className="pr-2">
        <select
          className={select}
          aria-label={`${name}: pain`}
          value={r.pain ?? ""}
          onChange={(e) => put.mutate({ pain: number(e.target.value) })}
        >
          <option value="">–</option>
          {painOptions.map((p) => (
            <option key={p}>{p}</option>
          ))}
        </select>
      </td>
      <td className="pr-2">
        <select
          className={`${select} max-w-32`}
          aria-label={`${name}: where it hurt`}
          value={`${r.zone ?? ""}/${r.side ?? ""}`}
          disabled={!r.pain}
          onChange={(e) => {
            const [zone, side] = e.target.value.split("/");
            put.mutate({ zone: zone || undefined, side: (side || undefined) as RunInput["side"] });
          }}
        >
          <option value="/">–</option>
          {zones.data?.items.flatMap((z) =>
            (["left", "right"] as const).map((s) => (
              <option key={`${z.id}${s}`} value={`${z.id}/${s}`}>
                {z.name}, {s}
              </option>
            )),
          )}
        </select>
      </td>
      <td className="pr-2 text-center">
        <input
          type="checkbox"
          className="size-5 accent-[var(--ink)]"
          aria-label={`${name}: limping`}
          checked={!!r.limping}
          onChange={(e) => put.mutate({ limping: e.target.checked })}
        />
      </td>
      <td className="pr-2">
        <select
          className={select}
          aria-label={`${name}: shoes`}
          value={r.footwear ?? ""}
          onChange={(e) => put.mutate({ footwear: e.target.value as RunInput["footwear"] })}
        >
          <option value="">–</option>
          <option value="usual">usual</option>
          <option value="minimal">minimal</option>
          <option value="bare">bare</option>
        </select>
      </td>
      <td>
        <button
          type="button"
          className="btn-quiet"
          aria-label={`take out: ${name}`}
          onClick={() => setTaking(true)}
        >
          take out
        </button>
        {(taking || fields.reason) && (
          <Why
            say={fields.reason ?? "this takes the run out; say why, for the journal"}
            onSay={(reason) =>
              fields.reason ? put.mutate({ ...put.variables, reason }) : out.mutate(reason)
            }
            onLeave={() => {
              setTaking(false);
              put.reset();
            }}
          />
        )}
        <SaveState error={fields.reason ? null : (put.error ?? out.error)} saving={false} />
      </td>
    </tr>
  );
}

type Result = { name: string; text: string; bad?: boolean; table?: Schema["Table"]; file?: File };

/** Takes in files one after the other, each whole or not at all. */
function Bring({ id }: { id: string }) {
  const [results, setResults] = useState<Result[]>([]);
  const [busy, setBusy] = useState<{ done: number; of: number } | null>(null);
  const [over, setOver] = useState(false);
  const stop = useRef(false);
  const touch = useTouch(id);
  const one = async (file: File, mapping?: Schema["Mapping"]): Promise<Result> => {
    try {
      const query = new URLSearchParams({ name: file.name });
      if (mapping) query.set("mapping", JSON.stringify(mapping));
      const res = await fetch(`/api/runners/${id}/run-files?${query}`, {
        method: "POST",
        headers: { "Content-Type": "application/octet-stream" },
        body: file,
      }).catch(() => {
        throw new NoConnection();
      });
      const body = (await res.json().catch(() => ({}))) as Schema["ImportResult"] & Schema["ErrorModel"];
      if (!res.ok) {
        const why =
          res.status === 413
            ? `${file.name} is too large; up to 25 MB are read`
            : (body.errors?.[0]?.message ?? body.detail ?? "this file could not be read");
        return { name: file.name, text: why, bad: true };
      }
      if (body.table) return { name: file.name, text: "map its columns first", table: body.table, file };
      const parts = [`${body.added} taken in`];
      if (body.known) parts.push(`${body.known} there already`);
      return { name: file.name, text: [...parts, ...body.notes].join("; ") };
    } catch (e) {
      return { name: file.name, text: (e as Error).message, bad: true };
    }
  };
  const take = async (files: File[]) => {
    if (files.length === 0) return;
    stop.current = false;
    setResults([]);
    setBusy({ done: 0, of: files.length });
    for (const [i, f] of files.entries()) {
      if (stop.current) break;
      const r = await one(f);
      setResults((list) => [...list, r]);
      setBusy({ done: i + 1, of: files.length });
    }
    setBusy(null);
    touch();
  };
  return (
    <section aria-label="Bring in runs" className="mb-6">
      <Title>Bring in runs</Title>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: a place to drop files; the buttons beneath do the same */}
      <div
        className={`border-2 border-dashed p-4 text-center ${over ? "border-ink bg-paper" : "border-edge"}`}
        onDragOver={(e) => {
          e.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(e) => {
          e.preventDefault();
          setOver(false);
          void dropped(e.dataTransfer).then(take);
        }}
      >
        <p className="mb-2 text-[14px]">Drop files or a folder: FIT, GPX, TCX, CSV</p>
        <div className="flex flex-wrap justify-center gap-2">
          <Pick label="Choose files" onFiles={take} />
          <Pick label="Choose a folder" folder onFiles={take} />
        </div>
      </div>
      {busy && (
        <div className="mt-2 flex items-center gap-3">
          <progress
            className="grow accent-[var(--ink)]"
            value={busy.done}
            max={busy.of}
            aria-label="Files read"
          />
          <span role="status">
            {busy.done} of {busy.of}
          </span>
          <button
            type="button"
            className="btn-quiet"
            onClick={() => {
              stop.current = true;
            }}
          >
            stop
          </button>
        </div>
      )}
      {results.length > 0 && (
        <ul className="mt-2 text-[14px]" aria-label="What became of each file">
          {results.map((r) => (
            <li key={r.name} className="border-b border-rule py-1">
              <b className="break-all">{r.name}</b>{" "}
              <span className={r.bad ? "text-clay" : "text-ink-2"}>
                {r.bad && <span aria-hidden="true">▲ </span>}
                {r.text}
              </span>
              {r.table && r.file && (
                <MapColumns
                  t={r.table}
                  done={async (m) => {
                    const next = await one(r.file as File, m);
                    setResults((list) => list.map((x) => (x === r ? next : x)));
                    touch();
                  }}
                />
              )}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

/** Every file of what was dropped, folders opened. */
async function dropped(t: DataTransfer): Promise<File[]> {
  const entries = [...t.items].map((i) => i.webkitGetAsEntry?.()).filter((e) => !!e);
  const out: File[] = [];
  const walk = async (e: FileSystemEntry): Promise<void> => {
    if (e.isFile) {
      out.push(await new Promise<File>((ok, no) => (e as FileSystemFileEntry).file(ok, no)));
      return;
    }
    const reader = (e as FileSystemDirectoryEntry).createReader();
    for (;;) {
      const list = await new Promise<FileSystemEntry[]>((ok, no) => reader.readEntries(ok, no));
      if (list.length === 0) return;
      for (const x of list) await walk(x);
    }
  };
  for (const e of entries) await walk(e);
  return out.length > 0 ? out : [...t.files];
}

function Pick({ label, folder, onFiles }: { label: string; folder?: boolean; onFiles: (f: File[]) => void }) {
  return (
    <label className="btn has-focus-visible:outline-3 has-focus-visible:outline-offset-2 has-focus-visible:outline-ink">
      {label}
      <input
        type="file"
        multiple
        className="sr-only"
        aria-label={label}
        ref={(el) => {
          if (folder) el?.setAttribute("webkitdirectory", "");
        }}
        onChange={(e) => {
          const list = [...(e.target.files ?? [])];
          e.target.value = "";
          onFiles(list);
        }}
      />
    </label>
  );
}

const columns: [keyof Schema["Mapping"] & string, string][] = [
  ["date", "Date"],
  ["time", "Time of day"],
  ["distance", "Distance"],
  ["duration", "Duration"],
  ["cadence", "Cadence"],
  ["effort", "Effort"],
  ["footwear", "Shoes"],
  ["surface", "Surface"],
  ["note", "Note"],
];

/** Says once which column is what; it is remembered for tables with this header. */
function MapColumns({ t, done }: { t: Schema["Table"]; done: (m: Schema["Mapping"]) => Promise<void> }) {
  const [m, setM] = useState(t.mapping);
  const first = t.rows[0] ?? [];
  return (
    <form
      aria-label="Map the columns"
      className="mt-2 grid gap-2 border-l-4 border-ink bg-paper p-3"
      onSubmit={(e) => {
        e.preventDefault();
        void done(m);
      }}
    >
      <p className="text-[14px]">{t.count} rows. Which column is what?</p>
      {columns.map(([k, name]) => (
        <label key={k} className="grid grid-cols-[6rem_1fr] items-center gap-2">
          {name}
          <select
            className="field min-h-8 py-0.5"
            value={m[k] as number}
            onChange={(e) => setM({ ...m, [k]: Number(e.target.value) })}
          >
            <option value={-1}>none</option>
            {t.header.map((h, i) => (
              <option
                // biome-ignore lint/suspicious/noArrayIndexKey: a column is its place
                key={i}
                value={i}
              >
                {h} ({first[i]})
              </option>
            ))}
          </select>
        </label>
      ))}
      <div className="grid grid-cols-3 gap-2">
        <select
          aria-label="Order of the date"
          className="field min-h-8 py-0.5"
          value={m.dateOrder}
          onChange={(e) => setM({ ...m, dateOrder: e.target.value as typeof m.dateOrder })}
        >
          <option value="ymd">year first</option>
          <option value="dmy">day first</option>
          <option value="mdy">month first</option>
        </select>
        <select
          aria-label="Unit of the distance"
          className="field min-h-8 py-0.5"
          value={m.unit}
          onChange={(e) => setM({ ...m, unit: e.target.value as typeof m.unit })}
        >
          <option value="km">km</option>
          <option value="m">metres</option>
          <option value="mi">miles</option>
        </select>
        <select
          aria-label="A plain duration is in"
          className="field min-h-8 py-0.5"
          value={m.minutes ? "min" : "s"}
          onChange={(e) => setM({ ...m, minutes: e.target.value === "min" })}
        >
          <option value="s">seconds</option>
          <option value="min">minutes</option>
        </select>
      </div>
      <button type="submit" className="btn min-h-8">
        Take them in
      </button>
    </form>
  );
}
