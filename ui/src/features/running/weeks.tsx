import { t } from "@lingui/core/macro";
import { weekDay } from "../../parts/dates";
import { Title } from "../../parts/marks";
import { unit } from "../../parts/measures";
import { Sideways } from "../../parts/sideways";
import { km, type LoadView } from "./hooks";

export function WeekTable({ v }: { v: LoadView }) {
  return (
    <section aria-label={t`Weeks`} className="mb-6">
      <Title>{t`Weeks`}</Title>
      <Sideways label={t`Weeks`}>
        <table className="w-full border-collapse text-right text-[14px]">
          <thead>
            <tr className="border-b border-rule text-ink-2">
              <th scope="col" className="text-left font-normal">
                {t`From`}
              </th>
              {[unit("km"), "min", "longest", "load", "contacts", ""].map((h) => (
                <th key={h} scope="col" className="py-1 font-normal">
                  {h || <span className="sr-only">{t`against four weeks`}</span>}
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
                    <span className="text-ink-2">{t` of ${km(w.plannedMetres)}`}</span>
                  )}
                </td>
                <td>{Math.round(w.seconds / 60)}</td>
                <td>{w.longestMetres > 0 ? km(w.longestMetres) : "–"}</td>
                <td>
                  {w.runs === w.noEffort ? "–" : Math.round(w.sessionLoad)}
                  {w.noEffort > 0 && w.runs > w.noEffort && (
                    <span className="text-ink-2">{t` +${w.noEffort} open`}</span>
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
      </Sideways>
    </section>
  );
}
