import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { Schema } from "../../api/client";
import { plusDays, weekDay } from "../../parts/dates";
import { Title } from "../../parts/marks";
import { Picture } from "../../parts/picture";
import { usePictures } from "../shelf/hooks";
import type { Block } from "./change";
import { called } from "./chip";
import type { Move } from "./weeks";

const both = (x: Schema["DoseView"]) => (x.same ? x.left : t`left ${x.left}, right ${x.right}`);

/** One day of a block: what is done, with pictures, and a way to move it. */
export function DaySide({ b, on, onMove }: { b: Block; on: string; onMove: (m: Move) => void }) {
  const pic = usePictures();
  const d = b.weeks.flatMap((w) => w.days).find((x) => x.on === on);
  if (!d) return null;
  const can = on >= b.today && !b.ended;
  return (
    <section aria-label={t`The day, ${weekDay(on)}`} className="mb-6">
      <Title aside={d.race && d.run ? t`race` : d.runs || t`no run`}>{weekDay(on)}</Title>
      {d.retest && <p className="mb-2 font-semibold">{t`Test again: ${d.retest}.`}</p>}
      {d.noRun && <p className="mb-2 font-semibold text-clay">▲ {d.noRun}</p>}
      {!d.in && <p className="text-ink-2">{t`Outside the block.`}</p>}
      {d.ramp.map((x) => (
        <p key={x.stage} className="mb-1 border-b border-rule pb-1 text-[14px]">
          <b>{x.name}</b> {x.words}
          {x.done && <span className="text-pine">{t` · done`}</span>}
        </p>
      ))}
      {d.in && !d.logged && d.sessions.length === 0 && d.ramp.length === 0 && (
        <p className="text-ink-2">{t`Nothing planned: rest.`}</p>
      )}
      {d.logged && d.done.map((x) => <Dose key={x.prescriptionId} x={x} pic={pic(x.exercise)} />)}
      {!d.logged &&
        d.sessions.map((s) => (
          <div key={s.kind + (s.routine?.id ?? "")} className="mb-3">
            <p className="flex flex-wrap items-baseline justify-between gap-x-3">
              <b>{s.name}</b>
              <span className="text-[14px] text-ink-2">
                {s.minutes > 0 && t`${s.minutes} min`}
                {s.when && ` ${s.when}`}
              </span>
            </p>
            {s.moved && <p className="text-[14px] text-ink-2">{t`moved from ${weekDay(s.moved)}`}</p>}
            {s.litmus && <p className="py-0.5 text-[14px] font-semibold">{s.litmus}</p>}
            {s.doses.map((x) => (
              <Dose key={x.prescriptionId} x={x} pic={pic(x.exercise)} />
            ))}
            {s.routine?.dropped.map((x) => (
              <p key={x} className="py-0.5 text-[14px] text-ink-2">
                <Trans>
                  <span aria-hidden="true">▲ </span>not now – {x}
                </Trans>
              </p>
            ))}
            {s.routine?.late && <p className="py-0.5 text-[14px]">{s.routine.late}</p>}
            {can && (
              <label className="mt-1 flex items-center gap-2 text-[14px] text-ink-2">
                {t`move to`}
                <select
                  className="field min-h-8 w-auto py-0.5"
                  aria-label={t`Move ${s.name} of ${weekDay(on)} to`}
                  value=""
                  onChange={(e) =>
                    e.target.value &&
                    onMove({
                      kind: s.kind,
                      routine: s.routine?.id,
                      name: called(s),
                      from: on,
                      to: e.target.value,
                    })
                  }
                >
                  <option value="">{t`choose a day`}</option>
                  {Array.from({ length: 14 }, (_, i) => plusDays(on, i - 6))
                    .filter((x) => x !== on && x >= b.today && x <= b.endOn)
                    .map((x) => (
                      <option key={x} value={x}>
                        {weekDay(x)}
                      </option>
                    ))}
                </select>
              </label>
            )}
          </div>
        ))}
    </section>
  );
}

function Dose({ x, pic }: { x: Schema["DoseView"]; pic: Schema["Picture"] | undefined }) {
  return (
    <div className="flex gap-3 border-b border-rule py-1.5">
      <Picture picture={pic} size={40} />
      <p className="min-w-0 text-[14px] leading-snug">
        <b>{x.name}</b>
        <br />
        {both(x)}
        {x.load && <span className="block">{x.load}</span>}
        {x.note && <span className="block text-ink-2">{x.note}</span>}
        {x.limits && <span className="block font-semibold">{t`only ${x.limits}`}</span>}
      </p>
    </div>
  );
}
