import { t } from "@lingui/core/macro";
import { useState } from "react";
import { dayMonth } from "../../parts/dates";
import { Heads } from "../../parts/marks";
import { distance, unit } from "../../parts/measures";
import { Sideways } from "../../parts/sideways";
import { km, type Week } from "./hooks";
import { outcomeWords, stageShort } from "./rail";

/** A week in one sentence, the same for eyes and screen readers. */
export function weekSentence(w: Week): string {
  const parts = [w.words];
  if (w.metres > 0)
    parts.push(
      t`${distance(w.usualMetres)} in usual shoes, ${km(w.minimalMetres)} minimal${w.bareMetres > 0 ? t`, ${km(w.bareMetres)} bare` : ""}`,
    );
  if (w.held) parts.push(t`${w.held}: nothing rises`);
  if (w.wait) parts.push(t`waits for ${w.wait.words}`);
  if (outcomeWords[w.outcome]) parts.push(outcomeWords[w.outcome]);
  return `${[...parts, ...w.reasons].join("; ")}.`;
}

export function Table({ weeks, today }: { weeks: readonly Week[]; today: string }) {
  const [all, setAll] = useState(false);
  const from = Math.max(0, weeks.findIndex((w) => w.monday > today) - 3);
  const shown = all ? weeks : weeks.slice(from, from + 8);
  const bare = weeks.some((w) => w.bareMetres > 0);
  return (
    <Sideways label={t`The ramp week by week`} className="mt-4">
      <table className="w-full min-w-[44rem] border-collapse text-[14px]">
        <caption className="sr-only">{t`The ramp week by week`}</caption>
        <Heads
          names={[
            t`Week from`,
            t`Stage`,
            t`What`,
            t`${unit("km")} usual`,
            "minimal",
            ...(bare ? ["bare"] : []),
            "share",
            t`What happened`,
          ]}
          right={[t`${unit("km")} usual`, "minimal", "bare", "share"]}
        />
        <tbody>
          {shown.map((w) => (
            <tr
              key={w.monday}
              className={`border-t border-rule align-top ${w.outcome === "open" ? "bg-paper" : ""}`}
            >
              <th scope="row" className="py-1.5 pr-3 text-left font-semibold whitespace-nowrap">
                {weeks.indexOf(w) + 1} · {dayMonth(w.monday)}
              </th>
              <td className="pr-3 py-1.5 whitespace-nowrap">{stageShort[w.state.stage] ?? "–"}</td>
              <td className="pr-3 py-1.5">{w.words}</td>
              <td className="pr-3 py-1.5 text-right">{w.metres > 0 ? km(w.usualMetres) : "–"}</td>
              <td className="pr-3 py-1.5 text-right">{w.metres > 0 ? km(w.minimalMetres) : "–"}</td>
              {bare && <td className="pr-3 py-1.5 text-right">{km(w.bareMetres)}</td>}
              <td className="pr-3 py-1.5 text-right">
                {w.metres > 0 ? `${Math.round(w.sharePercent)} %` : "–"}
              </td>
              <td className="py-1.5">
                {w.outcome !== "ahead" && <b>{outcomeWords[w.outcome]}</b>}
                {w.reasons.length > 0 && ` ${w.reasons.join("; ")}`}
                {w.held && <span className="text-ink-2"> {w.held}</span>}
                {w.wait && <span className="text-clay">{t` waits for ${w.wait.words}`}</span>}
                {w.shut.map((s) => (
                  <span key={s} className="block text-clay">
                    {t`▲ left out: ${s}`}
                  </span>
                ))}
                {w.reached && w.outcome === "ahead" && <span className="text-pine">{t` the goal`}</span>}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {weeks.length > 8 && (
        <button type="button" className="btn-quiet mt-1 print:hidden" onClick={() => setAll(!all)}>
          {all ? t`the weeks around today` : t`all ${weeks.length} weeks`}
        </button>
      )}
    </Sideways>
  );
}
