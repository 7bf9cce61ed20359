import { Link } from "react-router";
import { Select } from "../../parts/field";
import { Failed, Loading } from "../../parts/states";
import { has, NothingFits, useFilters } from "./filters";
import { Head, ShelfTabs } from "./head";
import { capital, gateName, type Routine, useShelf } from "./hooks";
import { Marks } from "./ladderrow";

export const minutes = (r: Routine) => (r.short === r.long ? `${r.short}` : `${r.short}–${r.long}`);

export function RoutinesView() {
  const shelf = useShelf();
  const [f, set, clear] = useFilters();
  if (shelf.isPending) return <Loading what="the shelf" />;
  if (shelf.error) return <Failed error={shelf.error} retry={() => void shelf.refetch()} />;
  const s = shelf.data;
  const list = s.routines.filter(
    (r) =>
      (!f.q || has([r.name, r.for, r.suits, ...r.parts.map((p) => p.name)].join(" "), f.q)) &&
      (!f.purpose || r.when === f.purpose) &&
      (!f.show || (f.show === "own" ? r.own || r.rev > 0 : r.retired)),
  );
  return (
    <>
      <Head
        title="Shelf"
        page="Routines"
        line="Small sessions to hand out whole, each with an order that has its reason. Given to a runner, what is closed drops out and doses start from the runner's own notches."
        to="/shelf/routines/new"
        button="Own routine"
      />
      <ShelfTabs />
      <search className="mb-4 grid grid-cols-2 gap-3 md:grid-cols-[minmax(0,1.6fr)_repeat(2,minmax(0,1fr))]">
        <label className="col-span-2 md:col-span-1">
          <span className="mb-1 block text-[13px] text-ink-2">Search routines</span>
          <input
            type="search"
            className="field"
            value={f.q}
            placeholder="name, part, who it suits"
            onChange={(e) => set("q", e.target.value)}
          />
        </label>
        <Select
          quiet
          all="all"
          label="When"
          value={f.purpose}
          onChange={(v) => set("purpose", v)}
          options={[
            ["before-run", "before a run"],
            ["run", "in a run"],
            ["evening", "evening"],
            ["barefoot", "without shoes"],
            ["any", "any time"],
          ]}
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
      <p className="sr-only" role="status">
        {list.length} routines
      </p>
      {list.length === 0 && <NothingFits clear={clear} />}
      <ul className="grid gap-x-8 md:grid-cols-2">
        {list.map((r) => (
          <li
            key={r.id}
            className={`grid grid-cols-[3.6rem_minmax(0,1fr)] gap-x-4 border-t border-rule py-3 ${r.retired ? "opacity-70" : ""}`}
          >
            <p className="text-right leading-tight">
              <b className="display text-[20px]">{minutes(r)}</b>
              <span className="block text-[13px] text-ink-2">min</span>
            </p>
            <div className="min-w-0 text-[14px]">
              <h2 className="text-[17px]">
                <Link className="hover:underline" to={`/shelf/routines/${r.id}`}>
                  {r.name}
                </Link>
                <Marks x={r} />
              </h2>
              <p>{r.for}</p>
              <p className="text-ink-2">
                {r.suits} {capital(r.perWeek)}
                {r.whenWords && `, ${r.whenWords}`}. {r.parts.length} parts
                {r.gates.length > 0 && `, some behind ${r.gates.map(gateName).join(", ")}`}.
              </p>
            </div>
          </li>
        ))}
      </ul>
    </>
  );
}
