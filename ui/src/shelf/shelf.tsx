import { useState } from "react";
import { Link, NavLink, useSearchParams } from "react-router";
import { api, need } from "../api/client";
import { Select } from "../parts/field";
import { useKeys } from "../parts/keys";
import { Title } from "../parts/marks";
import { Picture } from "../parts/picture";
import { Source } from "../parts/reasons";
import { Empty, Failed, Loading, SaveState } from "../parts/states";
import {
  capital,
  type Exercise,
  gateName,
  type Ladder,
  placeName,
  type Shelf,
  timingName,
  tissueName,
  useShelf,
  useShelfChange,
} from "./hooks";
import { ShelfRail } from "./rail";

export function ShelfTabs() {
  const tab = ({ isActive }: { isActive: boolean }) =>
    `border-b-[3px] px-1 py-1 ${isActive ? "border-ink font-semibold" : "border-transparent text-ink-2 hover:text-ink"}`;
  return (
    <nav aria-label="Shelf" className="mb-4 flex gap-5 border-b border-rule">
      <NavLink to="/shelf" end className={tab}>
        Ladders
      </NavLink>
      <NavLink to="/shelf/exercises" className={tab}>
        Exercises
      </NavLink>
      <NavLink to="/shelf/schools" className={tab}>
        Schools
      </NavLink>
    </nav>
  );
}

type Filters = { q: string; purpose: string; kit: string; tissue: string; gate: string; show: string };

/** The filters live in the address, so that a look at the shelf can be kept. */
function useFilters(): [Filters, (k: keyof Filters, v: string) => void, () => void] {
  const [params, set] = useSearchParams();
  const get = (k: keyof Filters) => params.get(k) ?? "";
  return [
    {
      q: get("q"),
      purpose: get("purpose"),
      kit: get("kit"),
      tissue: get("tissue"),
      gate: get("gate"),
      show: get("show"),
    },
    (k, v) =>
      set(
        (p) => {
          if (v) p.set(k, v);
          else p.delete(k);
          return p;
        },
        { replace: true },
      ),
    () => set({}, { replace: true }),
  ];
}

function FilterBar({
  s,
  f,
  set,
  what,
}: {
  s: Shelf;
  f: Filters;
  set: (k: keyof Filters, v: string) => void;
  what: string;
}) {
  const gates = [...new Set(s.ladders.flatMap((l) => l.gates))];
  return (
    <search className="mb-4 grid grid-cols-2 gap-3 md:grid-cols-[minmax(0,1.6fr)_repeat(5,minmax(0,1fr))]">
      <label className="col-span-2 md:col-span-1">
        <span className="mb-1 block text-[13px] text-ink-2">Search {what}</span>
        <input
          type="search"
          className="field"
          value={f.q}
          placeholder="name, cue, mistake"
          onChange={(e) => set("q", e.target.value)}
        />
      </label>
      <Select
        quiet
        all="all"
        label="Purpose"
        value={f.purpose}
        onChange={(v) => set("purpose", v)}
        options={s.purposes.map((p) => [p, p])}
      />
      <Select
        quiet
        all="all"
        label="Equipment"
        value={f.kit}
        onChange={(v) => set("kit", v)}
        options={[["none", "none needed"], ...s.kit.map((k): [string, string] => [k.id, k.name])]}
      />
      <Select
        quiet
        all="all"
        label="Tissue"
        value={f.tissue}
        onChange={(v) => set("tissue", v)}
        options={[...Object.entries(tissueName), ["none", "none counted"]]}
      />
      <Select
        quiet
        all="all"
        label="Gate"
        value={f.gate}
        onChange={(v) => set("gate", v)}
        options={[["none", "no gate"], ...gates.map((g): [string, string] => [g, gateName(g)])]}
      />
      <Select
        quiet
        all="all"
        label="Whose"
        value={f.show}
        onChange={(v) => set("show", v)}
        options={[
          ["own", "our own or changed"],
          ["retired", "retired"],
        ]}
      />
    </search>
  );
}

const has = (text: string, q: string) => text.toLowerCase().includes(q.trim().toLowerCase());

function ladderFits(l: Ladder, f: Filters, s: Shelf) {
  const exercises = s.exercises.filter((e) => l.notches.some((n) => n.exercise === e.id));
  const always = new Set(s.kit.filter((k) => k.always).map((k) => k.id));
  const needed = l.equipment.filter((k) => !always.has(k));
  return (
    (!f.q || has(`${l.name} ${l.family} ${l.id}`, f.q) || exercises.some((e) => exerciseHas(e, f.q))) &&
    (!f.purpose || l.purpose === f.purpose) &&
    (!f.kit || (f.kit === "none" ? needed.length === 0 : l.equipment.includes(f.kit))) &&
    (!f.tissue || (f.tissue === "none" ? l.tissues.length === 0 : l.tissues.includes(f.tissue))) &&
    (!f.gate || (f.gate === "none" ? l.gates.length === 0 : l.gates.includes(f.gate))) &&
    (!f.show || (f.show === "own" ? l.own || l.rev > 0 : l.retired))
  );
}

const exerciseHas = (e: Exercise, q: string) =>
  has([e.name, e.short, e.setUp, ...e.cues, ...e.mistakes].join(" "), q);

export function ShelfView() {
  const shelf = useShelf();
  const [f, set, clear] = useFilters();
  useKeys([
    { show: "← →", does: "step through the notches of the focused ladder" },
    { show: "Tab", does: "to the next ladder" },
  ]);
  if (shelf.isPending) return <Loading what="the shelf" />;
  if (shelf.error) return <Failed error={shelf.error} retry={() => void shelf.refetch()} />;
  const s = shelf.data;
  const list = s.ladders.filter((l) => ladderFits(l, f, s));
  const families = [...new Set(list.map((l) => l.family))];
  return (
    <>
      <Head
        title="Shelf"
        line={`${s.ladders.length} ladders, ${s.exercises.length} exercises. Change what your practice does differently; plans already made keep what they prescribed.`}
        to="/shelf/ladders/new"
        button="Own ladder"
      />
      <ShelfTabs />
      <FilterBar s={s} f={f} set={set} what="ladders" />
      <p className="sr-only" role="status">
        {list.length} ladders
      </p>
      {list.length === 0 && <NothingFits clear={clear} />}
      {families.map((family) => (
        <section key={family} aria-label={family} className="mb-6">
          <Title>{family}</Title>
          {list
            .filter((l) => l.family === family)
            .map((l) => (
              <LadderRow key={l.id} l={l} s={s} />
            ))}
        </section>
      ))}
    </>
  );
}

function Head({ title, line, to, button }: { title: string; line: string; to: string; button: string }) {
  return (
    <div className="mb-3 flex flex-wrap items-end gap-x-5 gap-y-2">
      <div className="mr-auto max-w-3xl">
        <h1>{title}</h1>
        <p className="mt-1 text-ink-2">{line}</p>
      </div>
      <Link className="btn btn-main" to={to}>
        {button}
      </Link>
    </div>
  );
}

function NothingFits({ clear }: { clear: () => void }) {
  return (
    <Empty title="Nothing on the shelf fits">
      <button type="button" className="btn mt-2" onClick={clear}>
        Show everything
      </button>
    </Empty>
  );
}

function Marks({ x }: { x: { own?: boolean; rev: number; retired: boolean } }) {
  return (
    <>
      {x.own && <Tag>our own</Tag>}
      {x.retired && <Tag>retired</Tag>}
    </>
  );
}

const Tag = ({ children }: { children: string }) => (
  <span className="ml-2 rounded-[3px] border border-edge px-1.5 align-middle font-sans text-[12px] font-normal text-ink-2">
    {children}
  </span>
);

function LadderRow({ l, s }: { l: Ladder; s: Shelf }) {
  const [at, setAt] = useState(1);
  const notch = l.notches[at - 1];
  const e = s.exercises.find((x) => x.id === notch?.exercise);
  const kit = l.equipment.map((k) => s.kit.find((x) => x.id === k)?.name ?? k);
  return (
    <article
      aria-label={l.name}
      className={`grid gap-x-6 gap-y-2 border-b border-rule py-4 lg:grid-cols-[minmax(0,17rem)_minmax(0,1fr)_10rem] ${l.retired ? "opacity-70" : ""}`}
    >
      <div>
        <h3>
          {l.name}
          <Marks x={l} />
        </h3>
        <p className="text-[14px] text-ink-2">
          {capital(l.purpose)}, {placeName[l.place]}, {l.perWeek}
          {l.tissues.length > 0 && <>. Loads {l.tissues.map((t) => tissueName[t] ?? t).join(", ")}</>}
          {kit.length > 0 && <>. Needs {kit.join(", ")}</>}.
        </p>
        <details className="mt-1 text-[14px]">
          <summary className="text-ink-2 underline decoration-rule underline-offset-4">
            where it starts, and sources
          </summary>
          <ul className="mt-1 list-disc pl-5">
            {l.startWords.map((w) => (
              <li key={w}>{w}</li>
            ))}
          </ul>
          <Source text={l.sourceText} />
          {l.weights && <p className="text-[13px] text-ink-2">Tissue weights: {l.weights}</p>}
        </details>
        <p className="mt-1 flex flex-wrap gap-x-3">
          <Link className="btn-quiet" to={`/shelf/ladders/${l.id}`} aria-label={`change: ${l.name}`}>
            change
          </Link>
          <Retire kind="ladder" x={l} />
        </p>
      </div>
      <div className="min-w-0">
        <ShelfRail ladder={l} at={at} onPick={setAt} />
        {e && (
          <div className="mt-1 text-[14px]">
            <p>
              <b>{e.name}.</b> {e.setUp}
              {notch?.more && ` ${capital(notch.more)}.`}
            </p>
            <p className="text-ink-2">
              {e.cues.join(" · ")}
              {notch?.tempo && ` · ${notch.tempo}`}
            </p>
            <p className="text-ink-2">
              {notch && `${Math.max(1, Math.round(notch.minutes))} min`}
              {notch?.gap48 && " · a whole day between two of the same tissue"}
              {notch?.load && ` · ${notch.load}`}
            </p>
          </div>
        )}
      </div>
      <div className="lg:justify-self-end">
        <Picture picture={e?.picture} />
      </div>
    </article>
  );
}

/** Out of new plans, or back in. */
function Retire({
  kind,
  x,
}: {
  kind: "ladder" | "exercise";
  x: { id: string; name: string; rev: number; retired: boolean };
}) {
  const put = useShelfChange((retired: boolean) =>
    need(api.POST("/api/shelf/retired", { body: { kind, item: x.id, rev: x.rev, retired } })),
  );
  return (
    <>
      <button
        type="button"
        className="btn-quiet"
        disabled={put.isPending}
        aria-label={`${x.retired ? "bring back" : "retire"}: ${x.name}`}
        onClick={() => put.mutate(!x.retired)}
      >
        {x.retired ? "bring back" : "retire"}
      </button>
      <SaveState error={put.error} saving={put.isPending} />
    </>
  );
}

export function ExercisesView() {
  const shelf = useShelf();
  const [f, set, clear] = useFilters();
  if (shelf.isPending) return <Loading what="the shelf" />;
  if (shelf.error) return <Failed error={shelf.error} retry={() => void shelf.refetch()} />;
  const s = shelf.data;
  const always = new Set(s.kit.filter((k) => k.always).map((k) => k.id));
  const list = s.exercises.filter((e) => {
    const on = s.ladders.filter((l) => l.notches.some((n) => n.exercise === e.id));
    const needed = e.equipment.filter((k) => !always.has(k));
    return (
      (!f.q || exerciseHas(e, f.q)) &&
      (!f.purpose || e.purpose === f.purpose) &&
      (!f.kit || (f.kit === "none" ? needed.length === 0 : e.equipment.includes(f.kit))) &&
      (!f.tissue ||
        (f.tissue === "none"
          ? on.every((l) => l.tissues.length === 0)
          : on.some((l) => l.tissues.includes(f.tissue)))) &&
      (!f.gate ||
        (f.gate === "none"
          ? on.every((l) => l.notches.every((n) => n.exercise !== e.id || !n.gate))
          : on.some((l) => l.notches.some((n) => n.exercise === e.id && n.gate === f.gate)))) &&
      (!f.show || (f.show === "own" ? e.own || e.rev > 0 : e.retired))
    );
  });
  return (
    <>
      <Head
        title="Shelf"
        line="Every exercise with its set-up, cues and what to watch for."
        to="/shelf/exercises/new"
        button="Own exercise"
      />
      <ShelfTabs />
      <FilterBar s={s} f={f} set={set} what="exercises" />
      <p className="mb-3 text-ink-2" role="status">
        {list.length} of {s.exercises.length} exercises
      </p>
      {list.length === 0 && <NothingFits clear={clear} />}
      <ul className="grid gap-x-8 md:grid-cols-2">
        {list.map((e) => (
          <li key={e.id} className="flex gap-4 border-t border-rule py-3">
            <Picture picture={e.picture} size={64} />
            <div className="min-w-0 text-[14px]">
              <h3>
                {e.name}
                <Marks x={{ own: e.own, rev: e.rev, retired: e.retired }} />
              </h3>
              <p>{e.setUp}</p>
              <p className="text-ink-2">{e.cues.join(" · ")}</p>
              {e.mistakes.length > 0 && <p className="text-ink-2">Watch: {e.mistakes.join(", ")}</p>}
              {(e.cautions ?? []).map((c) => (
                <p key={c} className="text-clay">
                  <span aria-hidden="true">▲ </span>
                  {c}
                </p>
              ))}
              <p className="text-ink-2">
                {capital(e.purpose)}, {timingName[e.timing]},{" "}
                {e.sides === "each" ? "each side" : "both together"} · {e.sourceText}
              </p>
              <p className="flex flex-wrap gap-x-3">
                <Link className="btn-quiet" to={`/shelf/exercises/${e.id}`} aria-label={`change: ${e.name}`}>
                  change
                </Link>
                <Retire kind="exercise" x={e} />
              </p>
            </div>
          </li>
        ))}
      </ul>
    </>
  );
}
