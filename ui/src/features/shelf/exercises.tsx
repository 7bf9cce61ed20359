import { t } from "@lingui/core/macro";
import { Link } from "react-router";
import { Failed, Loading } from "../../parts/states";
import { BigPicture } from "./big";
import { exerciseHas, FilterBar, NothingFits, useFilters } from "./filters";
import { Head, ShelfTabs } from "./head";
import { capital, timingName, useShelf } from "./hooks";
import { Marks, Retire } from "./ladderrow";

export function ExercisesView() {
  const shelf = useShelf();
  const [f, set, clear] = useFilters();
  if (shelf.isPending) return <Loading what={t`the shelf`} />;
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
        title={t`Shelf`}
        page={t`Exercises`}
        line={t`Every exercise with its set-up, cues and what to watch for.`}
        to="/shelf/exercises/new"
        button={t`Own exercise`}
      />
      <ShelfTabs />
      <FilterBar s={s} f={f} set={set} what={t`exercises`} />
      <p className="mb-3 text-ink-2" role="status">
        {t`${list.length} of ${s.exercises.length} exercises`}
      </p>
      {list.length === 0 && <NothingFits clear={clear} />}
      <ul className="grid gap-x-8 md:grid-cols-2">
        {list.map((e) => (
          <li key={e.id} className="flex gap-4 border-t border-rule py-3">
            <BigPicture e={e} size={64} />
            <div className="min-w-0 text-[14px]">
              <h2 className="text-[17px]">
                {e.name}
                <Marks x={{ own: e.own, rev: e.rev, retired: e.retired }} />
              </h2>
              <p>{e.setUp}</p>
              <p className="text-ink-2">{e.cues.join(" · ")}</p>
              {e.mistakes.length > 0 && <p className="text-ink-2">{t`Watch: ${e.mistakes.join(", ")}`}</p>}
              {(e.cautions ?? []).map((c) => (
                <p key={c} className="text-clay">
                  <span aria-hidden="true">▲ </span>
                  {c}
                </p>
              ))}
              <p className="text-ink-2">
                {capital(e.purpose)}, {timingName[e.timing]},{" "}
                {e.sides === "each" ? t`each side` : t`both together`} · {e.sourceText}
              </p>
              <p className="flex flex-wrap gap-x-3">
                <Link className="btn-quiet" to={`/shelf/exercises/${e.id}`} aria-label={t`change: ${e.name}`}>
                  {t`Change`}
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
