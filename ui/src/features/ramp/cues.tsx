import { t } from "@lingui/core/macro";
import { useState } from "react";
import { api, freshKey, need, type Schema } from "../../api/client";
import { dayMonth } from "../../parts/dates";
import { Title } from "../../parts/marks";
import { SaveState } from "../../parts/states";
import { useRampChange, type View } from "./hooks";

const cueState: Record<Schema["CueView"]["state"], string> = {
  now: "now",
  later: "later",
  done: "took",
  "not-needed": t`not needed`,
};

/** One cue at a time, two weeks each, then a look with the same set-up. */
export function Cues({ id, v }: { id: string; v: View }) {
  const [key, setKey] = useState(freshKey);
  const look = useRampChange(id, (body: Schema["TransitionCueLook"]) =>
    need(
      api.POST("/api/runners/{id}/cue-looks", {
        params: { path: { id }, header: { "Idempotency-Key": key } },
        body,
      }),
    ),
  );
  const say = (body: Omit<Schema["TransitionCueLook"], "on">) =>
    look.mutate({ on: v.today, ...body }, { onSettled: () => setKey(freshKey()) });
  const s = v.shift;
  return (
    <section id="cues" aria-label={t`Form cues`} className="mt-9 scroll-mt-4">
      <Title aside={t`one at a time, two weeks each, 4 to 8 short repeats a run`}>{t`Form cues`}</Title>
      {v.cues.map((c) => (
        <div
          key={c.id}
          className={`grid items-start gap-x-5 gap-y-1 border-b border-rule py-2.5 md:grid-cols-[12rem_1fr_auto] ${c.state === "not-needed" ? "text-ink-2" : ""}`}
        >
          <p>
            <b>{c.name}</b>{" "}
            <span className={c.state === "now" ? "font-semibold text-pine" : ""}>{cueState[c.state]}</span>
          </p>
          <div className="text-[14px]">
            {c.state === "now" && <p className="display text-[19px] font-semibold text-ink">“{c.say}”</p>}
            {c.state !== "not-needed" && <p>{c.drill}</p>}
            {c.due && c.state === "now" && (
              <p className={c.due <= v.today ? "font-semibold text-clay" : ""}>
                {t`${c.due <= v.today ? t`▲ Look again now` : t`Look again on ${dayMonth(c.due)}`}, same place, same speed, same camera.`}
              </p>
            )}
          </div>
          <div className="flex flex-wrap gap-2">
            {c.state === "now" && !c.from && (
              <button type="button" className="btn min-h-8" onClick={() => say({ cue: c.id, begin: true })}>
                {t`Begin today`}
              </button>
            )}
            {c.state === "now" && c.from && (
              <>
                <button type="button" className="btn min-h-8" onClick={() => say({ cue: c.id, took: true })}>
                  {t`It took`}
                </button>
                <button type="button" className="btn min-h-8" onClick={() => say({ cue: c.id })}>
                  {t`Two weeks more`}
                </button>
              </>
            )}
          </div>
        </div>
      ))}
      <SaveState error={look.error} saving={false} />
      <div className="mt-4 border-l-4 border-rule pl-3 text-[14px]">
        <p>
          <b>{t`A wish to land differently?`}</b> {s.words}
        </p>
        {s.to && (
          <p className="text-ink-2">
            {t`If it has to be: from ${s.to === "mid" ? t`heel to the middle` : t`the middle to the fore foot`}, no further, over at least ${s.weeksMin} weeks${s.achillesPercent > 0 ? t`, ${Math.round(s.achillesPercent)} % more dose on the Achilles at the same running` : ""}.`}
          </p>
        )}
        {s.missing.length > 0 && <p className="text-clay">{t`▲ First: ${s.missing.join("; ")}.`}</p>}
      </div>
    </section>
  );
}
