import { t } from "@lingui/core/macro";
import { useSearchParams } from "react-router";
import { Select } from "../../parts/field";
import { Empty } from "../../parts/states";
import { type Exercise, gateName, type Ladder, type Shelf, tissueName } from "./hooks";

type Filters = { q: string; purpose: string; kit: string; tissue: string; gate: string; show: string };

/** The filters live in the address, so that a look at the shelf can be kept. */
export function useFilters(): [Filters, (k: keyof Filters, v: string) => void, () => void] {
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

export function FilterBar({
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
        <span className="mb-1 block text-[13px] text-ink-2">{t`Search ${what}`}</span>
        <input
          type="search"
          className="field"
          value={f.q}
          placeholder={t`name, cue, mistake`}
          onChange={(e) => set("q", e.target.value)}
        />
      </label>
      <Select
        quiet
        all={t`all`}
        label={t`Purpose`}
        value={f.purpose}
        onChange={(v) => set("purpose", v)}
        options={s.purposes.map((p) => [p, p])}
      />
      <Select
        quiet
        all={t`all`}
        label={t`Equipment`}
        value={f.kit}
        onChange={(v) => set("kit", v)}
        options={[["none", t`none needed`], ...s.kit.map((k): [string, string] => [k.id, k.name])]}
      />
      <Select
        quiet
        all={t`all`}
        label={t`Tissue`}
        value={f.tissue}
        onChange={(v) => set("tissue", v)}
        options={[...Object.entries(tissueName), ["none", t`none counted`]]}
      />
      <Select
        quiet
        all={t`all`}
        label={t`Gate`}
        value={f.gate}
        onChange={(v) => set("gate", v)}
        options={[["none", t`no gate`], ...gates.map((g): [string, string] => [g, gateName(g)])]}
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
  );
}

export const has = (text: string, q: string) => text.toLowerCase().includes(q.trim().toLowerCase());

export function ladderFits(l: Ladder, f: Filters, s: Shelf) {
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

export const exerciseHas = (e: Exercise, q: string) =>
  has([e.name, e.short, e.setUp, ...e.cues, ...e.mistakes].join(" "), q);

export function NothingFits({ clear }: { clear: () => void }) {
  return (
    <Empty title={t`Nothing on the shelf fits`}>
      <button type="button" className="btn mt-2" onClick={clear}>
        {t`Show everything`}
      </button>
    </Empty>
  );
}
