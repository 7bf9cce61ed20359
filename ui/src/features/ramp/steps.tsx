import { t } from "@lingui/core/macro";
import { dayMonth } from "../../parts/dates";
import { Heads } from "../../parts/marks";
import { Sideways } from "../../parts/sideways";
import type { View } from "./hooks";
import { outcomeWords } from "./rail";

/** The steps as a rail of beats over weeks, with what each week holds. */
export function Steps({ v }: { v: View }) {
  const p = v.cadence.plan;
  return (
    <Sideways label={t`The steps of the cadence`}>
      <table className="w-full min-w-[34rem] border-collapse text-[14px]">
        <caption className="sr-only">{t`The steps of the cadence, week by week`}</caption>
        <Heads names={[t`Week from`, t`Beat`, t`In the easy runs`, t`What happened`]} />
        <tbody>
          {p.weeks.map((w, i) => (
            <tr key={w.monday} className={`border-t border-rule ${i === p.now ? "bg-paper" : ""}`}>
              <th scope="row" className="py-1.5 pr-3 text-left font-semibold whitespace-nowrap">
                {dayMonth(w.monday)}
              </th>
              <td className="py-1.5 pr-3">
                <Beat beat={w.beatSpm} low={Math.round(p.baselineSpm)} high={p.targetSpm} now={i === p.now} />
              </td>
              <td className="py-1.5 pr-3">{w.content}</td>
              <td className="py-1.5">
                {w.outcome !== "ahead" && <b>{outcomeWords[w.outcome]} </b>}
                {w.reasons.join("; ")}
                {w.recount && w.outcome !== "passed" && (
                  <span className="text-ink-2">{t` then count again`}</span>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Sideways>
  );
}

function Beat({ beat, low, high, now }: { beat: number; low: number; high: number; now: boolean }) {
  const share = (beat - low) / Math.max(1, high - low);
  return (
    <span className="flex items-center gap-2">
      <b className="w-9">{beat}</b>
      <svg width="110" height="14" viewBox="0 0 110 14" aria-hidden="true">
        <path d="M0 12H110" stroke="var(--ink)" />
        <rect x="0" y="7" width={110 * share} height="5" fill="var(--edge)" />
        {now && <rect x={Math.max(0, 110 * share - 4)} y="0" width="4" height="12" fill="var(--clay)" />}
      </svg>
    </span>
  );
}
