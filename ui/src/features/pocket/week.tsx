import { t } from "@lingui/core/macro";
import { weekDay } from "../../parts/dates";
import { addDays, idOf, sittingsOf, sittingTold } from "./rules";
import type { Ready } from "./usepocket";

/** What comes, day by day; a session may move to another day where the rules allow. */
export function Week({ p }: { p: Ready }) {
  const { plan, local } = p;
  const days = plan.days.filter((d) => d.on >= addDays(p.today, -1) && d.on <= addDays(p.today, 13));
  if (days.length === 0)
    return <p className="mt-4">{t`Nothing is planned yet. Your coach makes the plan.`}</p>;
  return (
    <ol>
      {days.map((d) => {
        const list = sittingsOf(plan, local, d.on, p.now.getTime());
        return (
          <li
            key={d.on}
            className={`border-b border-rule py-3 ${d.on === p.today ? "border-l-4 border-l-ink pl-3" : ""}`}
          >
            <p className="flex justify-between gap-3">
              <b>{d.on === p.today ? t`Today` : weekDay(d.on)}</b>
              <span className="text-ink-2">{d.race ? t`race` : d.runs || t`no run`}</span>
            </p>
            {d.runNote && <p className="text-[15px] text-clay">▲ {d.runNote}</p>}
            {list.map((s) => (
              <div key={idOf(s.sitting)} className="mt-1.5">
                <p>
                  {s.sitting.name}
                  {s.sitting.minutes > 0 ? t`, ${s.sitting.minutes} min` : ""}
                  {sittingTold(plan, p.kept, d.on, idOf(s.sitting)) ? t` · done` : ""}
                </p>
                <p className="text-[15px] text-ink-2">
                  {[...new Set(s.todo.map((it) => it.item.name))].join(", ")}
                </p>
                {d.on >= p.today && s.sitting.kind === "main" && plan.block && (
                  <Moving p={p} on={d.on} kind={s.sitting.kind} />
                )}
              </div>
            ))}
            {d.ramp.map((x) => (
              <p key={x.stage} className="text-[15px] text-ink-2">
                {x.name} {x.words}
              </p>
            ))}
            {d.retest && <p className="text-[15px] font-semibold">{t`Tested again: ${d.retest}`}</p>}
          </li>
        );
      })}
    </ol>
  );
}

function Moving({ p, on, kind }: { p: Ready; on: string; kind: string }) {
  const mine = p.kept.filter((k) => k.report.kind === "move" && k.report.on === on).at(-1);
  const moves = p.plan.moves.filter((m) => m.from === on && m.kind === kind && m.to >= p.today);
  const open = moves.filter((m) => !m.why);
  const shut = moves.filter((m) => m.why);
  if (mine?.told === "kept")
    return (
      <p className="text-[15px]">
        {t`Asked to move to ${weekDay(mine.report.move?.to ?? "")}; it counts once it was sent.`}
      </p>
    );
  return (
    <>
      {mine?.told === "refused" && (
        <p className="text-[15px] text-clay">{t`▲ That day is closed: ${mine.why ?? ""}`}</p>
      )}
      {open.length > 0 && (
        <label className="mt-1 flex flex-wrap items-center gap-2 text-[15px]">
          {t`move to`}
          <select
            className="field min-h-12 w-auto max-w-full"
            value=""
            onChange={(e) =>
              e.target.value &&
              void p.tell({
                kind: "move",
                on,
                move: { block: p.plan.block ?? "", kind: kind as "main", to: e.target.value },
              })
            }
          >
            <option value="">{t`another day`}</option>
            {open.map((m) => (
              <option key={m.to} value={m.to}>
                {weekDay(m.to)}
              </option>
            ))}
          </select>
        </label>
      )}
      {shut.length > 0 && (
        <details className="mt-1 text-[15px] text-ink-2">
          <summary className="min-h-11 py-2">{t`Why not another day?`}</summary>
          {shut.map((m) => (
            <p key={m.to}>
              {weekDay(m.to)}: {m.why}
            </p>
          ))}
        </details>
      )}
    </>
  );
}
