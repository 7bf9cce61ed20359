import { t } from "@lingui/core/macro";
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
  if (shelf.isPending) return <Loading what={t`the shelf`} />;
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
        title={t`Shelf`}
        page={t`Routines`}
        line={t`Small sessions to hand out whole, each with an order that has its reason. Given to a runner, what is closed drops out and doses start from the runner's own notches.`}
        to="/shelf/routines/new"
        button={t`Own routine`}
      />
      <ShelfTabs />
      <search className="mb-4 grid grid-cols-2 gap-3 md:grid-cols-[minmax(0,1.6fr)_repeat(2,minmax(0,1fr))]">
        <label className="col-span-2 md:col-span-1">
          <span className="mb-1 block text-[13px] text-ink-2">{t`Search routines`}</span>
          <input
            type="search"
            className="field"
            value={f.q}
            placeholder={t`name, part, who it suits`}
            onChange={(e) => set("q", e.target.value)}
          />
        </label>
        <Select
          quiet
          all={t`all`}
          label={t`When`}
          value={f.purpose}
          onChange={(v) => set("purpose", v)}
          options={[
            ["before-run", t`before a run`],
            ["run", t`in a run`],
            ["evening", "evening"],
            ["barefoot", t`without shoes`],
            ["any", t`any time`],
          ]}
        />
        <Select
          quiet
          all={t`all`}
          label={t`Whose`}
          value={f.show}
          onChange={(v) => set("show", v)}
          options={[
            ["own", t`our own or changed`],
            ["retired", "retired"],
          ]}
        />
      </search>
      <p className="sr-only" role="status">
        {t`${list.length} routines`}
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
              <span className="block text-[13px] text-ink-2">{t`min`}</span>
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
                {t`${r.suits} ${capital(r.perWeek)}${r.whenWords ? `, ${r.whenWords}` : ""}. ${r.parts.length} parts${r.gates.length > 0 ? t`, some behind ${r.gates.map(gateName).join(", ")}` : ""}.`}
              </p>
            </div>
          </li>
        ))}
      </ul>
    </>
  );
}
