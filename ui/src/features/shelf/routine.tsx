import { t } from "@lingui/core/macro";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { useBench } from "../../api/hooks";
import { Drawing } from "../../parts/picture";
import { Source } from "../../parts/reasons";
import { Empty, Failed, Loading } from "../../parts/states";
import { capital, gateName, type Routine, type Shelf, useShelf } from "./hooks";
import { Marks, Retire } from "./ladderrow";
import { minutes } from "./routines";

/** One routine whole: to read, to print, to give. */
export function RoutineView() {
  const { id } = useParams();
  const shelf = useShelf();
  if (shelf.isPending) return <Loading what={t`the shelf`} />;
  if (shelf.error) return <Failed error={shelf.error} retry={() => void shelf.refetch()} />;
  const r = shelf.data.routines.find((x) => x.id === id);
  if (!r)
    return (
      <Empty title={t`This routine is not on the shelf`}>
        <Link className="btn mt-2" to="/shelf/routines">
          {t`To the routines`}
        </Link>
      </Empty>
    );
  return (
    <>
      <div className="mb-4 flex flex-wrap items-end gap-x-3 gap-y-2">
        <div className="mr-auto max-w-3xl">
          <h1>
            {r.name}
            <Marks x={r} />
          </h1>
          <p className="mt-1">{r.for}</p>
          <p className="text-ink-2">{r.suits}</p>
        </div>
        <span className="flex flex-wrap gap-3 print:hidden">
          <button type="button" className="btn" onClick={() => print()}>
            {t`Print`}
          </button>
          <Link className="btn" to={`/shelf/routines/new?from=${r.id}`}>
            {t`Copy and change`}
          </Link>
          {r.own && (
            <Link className="btn" to={`/shelf/routines/${r.id}/change`}>
              {t`Change`}
            </Link>
          )}
        </span>
      </div>
      <p className="mb-4 border-y border-rule py-2">
        {t`${minutes(r)} min · ${r.perWeek}${r.whenWords ? ` · ${r.whenWords}` : ""}${r.equipment.length > 0 ? t` · needs ${r.equipment.join(", ")}` : ""}${r.compare === "cm" ? t` · ${r.compared ?? ""} before and after` : ""}${r.compare === "walk" || r.compare === "steps" ? t` · the same walk before and after` : ""}`}
      </p>
      <Give r={r} />
      <Parts r={r} s={shelf.data} />
      {r.late && <p className="mt-3 font-semibold">{r.late}</p>}
      <p className="mt-3 text-[14px] text-ink-2">
        {t`The other side is the rest; 10 s to change over. Stop an exercise at pain 6 or more, everything at 8, at numbness or a limp.`}
      </p>
      <div className="mt-2 flex flex-wrap items-center gap-4 print:hidden">
        <Source text={r.sourceText} />
        <Retire kind="routine" x={r} />
      </div>
    </>
  );
}

function Parts({ r, s }: { r: Routine; s: Shelf }) {
  return (
    <ol aria-label={t`Parts in order`}>
      {r.parts.map((p, i) => {
        const e = s.exercises.find((x) => x.id === p.exercise);
        return (
          <li
            // biome-ignore lint/suspicious/noArrayIndexKey: a part may stand twice; its place is what it is
            key={i}
            className="grid grid-cols-[2rem_auto_minmax(0,1fr)] gap-x-4 border-t border-rule py-3 print:break-inside-avoid"
          >
            <b className="display text-[20px]">{i + 1}</b>
            <span className="flex gap-1">
              {e?.picture && (
                <>
                  <Drawing parts={e.picture.start} size={64} />
                  <Drawing parts={e.picture.end} size={64} />
                </>
              )}
            </span>
            <div className="min-w-0 text-[14px]">
              <h2 className="flex text-[17px] flex-wrap items-baseline gap-x-3">
                {p.name}
                <span className="font-sans text-[15px] font-semibold">
                  {p.dose}
                  {p.long && t` to ${p.long}`}
                </span>
                <span className="font-sans text-[14px] font-normal text-ink-2">
                  {p.together ? t`both together` : t`each side`}
                  {p.tempo && ` · ${p.tempo}`}
                </span>
              </h2>
              {p.more && <p className="font-semibold">{capital(p.more)}.</p>}
              <p>{e?.setUp}</p>
              <p className="text-ink-2">{e?.cues.join(" · ")}</p>
              {e && e.mistakes.length > 0 && (
                <p className="text-ink-2">{t`Watch: ${e.mistakes.join(", ")}`}</p>
              )}
              {(e?.cautions ?? []).map((c) => (
                <p key={c} className="text-clay">
                  <span aria-hidden="true">▲ </span>
                  {c}
                </p>
              ))}
              {(p.key || p.longOnly || p.wait || p.gate) && (
                <p className="text-ink-2 print:hidden">
                  {[
                    p.key && t`what it is for`,
                    p.longOnly && t`long version only`,
                    p.wait,
                    p.gate && t`behind the gate ${gateName(p.gate)}`,
                  ]
                    .filter(Boolean)
                    .join(" · ")}
                </p>
              )}
            </div>
          </li>
        );
      })}
    </ol>
  );
}

/** To a runner's block, where it is fitted before it is given. */
function Give({ r }: { r: Routine }) {
  const [open, setOpen] = useState(false);
  if (r.retired) return null;
  return (
    <div className="mb-4 print:hidden">
      <button type="button" className="btn btn-main" aria-expanded={open} onClick={() => setOpen(!open)}>
        {t`Give it to a runner`}
      </button>
      {open && <Runners r={r} />}
    </div>
  );
}

function Runners({ r }: { r: Routine }) {
  const [search, setSearch] = useState("");
  const list = useBench(search);
  const items = (list.data?.pages[0]?.items ?? []).filter((x) => x.blockWeek);
  return (
    <div className="mt-2 border-l-4 border-edge bg-paper p-3">
      <label className="block max-w-64">
        <span className="mb-1 block text-[13px] text-ink-2">{t`Find a runner`}</span>
        <input type="search" className="field" value={search} onChange={(e) => setSearch(e.target.value)} />
      </label>
      <ul className="mt-2 flex flex-wrap gap-2">
        {items.map((x) => (
          <li key={x.id}>
            <Link className="btn" to={`/runners/${x.id}/block?give=${r.id}`}>
              {x.name}
            </Link>
          </li>
        ))}
      </ul>
      {list.data && items.length === 0 && (
        <p className="text-ink-2">{t`Nobody of that name has a running block.`}</p>
      )}
    </div>
  );
}
