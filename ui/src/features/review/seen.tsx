import { t } from "@lingui/core/macro";
import type { Schema } from "../../api/client";
import type { Option } from "../../parts/field";
import { unit } from "../../parts/measures";
import { Tick, withOrWithout } from "../../parts/tick";
import type { Line, Prescription, Side } from "./model";

/** The answers of a list as choices. */
export const said = (list: Schema["AdjustChoice"][]): Option<number>[] =>
  list.map((c) => ({ value: c.value, label: c.words }));

/** What of a side may not be done today, or only so. */
export function NotNow({ p, side }: { p: Prescription; side: Side }) {
  const today = p.today.filter((it) => side === "both" || it.side === side);
  const why = [...new Set(today.flatMap((it) => it.why))];
  const limits = [...new Set(today.flatMap((it) => it.limits))];
  const meanwhile = today.find((it) => it.state === "closed" && it.notch > 0);
  return (
    <>
      {why.length > 0 && (
        <p className="text-[14px] font-semibold text-clay">
          {t`▲ not now: ${why.join("; ")}`}
          {meanwhile && (
            <span className="block">{t`meanwhile ${p.notches[meanwhile.notch - 1]?.words ?? ""}`}</span>
          )}
        </p>
      )}
      {limits.length > 0 && <p className="text-[14px] font-semibold">{t`only ${limits.join("; ")}`}</p>}
    </>
  );
}

/** Which mistakes were seen, each answered with its cue; sets, repetitions and load
 * where they differ from the dose. */
export function Seen({
  p,
  side,
  l,
  set,
  name,
}: {
  p: Prescription;
  side: Side;
  l: Line;
  set: (part: Line) => void;
  name: string;
}) {
  const peg = p.pegs.find((g) => side === "both" || g.side === side);
  const n = p.notches[(peg?.notch ?? 1) - 1];
  if (!n) return null;
  const seen = l.mistakes ?? [];
  return (
    <details className="w-full text-[14px]" open={seen.length > 0 || !!l.sets || !!l.reps || !!l.kg}>
      <summary className="cursor-pointer text-ink-2">{t`Mistakes seen, or another dose`}</summary>
      <div className="mt-1 flex flex-wrap items-end gap-x-6 gap-y-2">
        {n.mistakes.length > 0 && (
          <fieldset>
            <legend className="sr-only">{t`${name}: mistakes seen`}</legend>
            {n.mistakes.map((m, i) => (
              <Tick
                key={m}
                className="flex min-h-7 items-center gap-2"
                label={
                  <>
                    {m}
                    {seen.includes(m) && n.cues.length > 0 && (
                      <b className="text-pine">{t`say: ${n.cues[Math.min(i, n.cues.length - 1)] ?? ""}`}</b>
                    )}
                  </>
                }
                on={seen.includes(m)}
                onChange={(on) => set({ mistakes: withOrWithout(seen, m, on) })}
              />
            ))}
          </fieldset>
        )}
        {(
          [
            ["sets", t`sets done`],
            ["reps", t`repetitions a set`],
            ["kg", t`${unit("kg")} used`],
          ] as const
        ).map(([k, label]) => (
          <label key={k} className="flex items-center gap-2">
            {label}
            <input
              className="field min-h-7 w-16 px-1.5 py-0"
              inputMode="decimal"
              aria-label={`${name}: ${label}`}
              placeholder={t`as asked`}
              value={l[k] ?? ""}
              onChange={(e) => set({ [k]: e.target.value.replace(/[^0-9.,]/g, "") })}
            />
          </label>
        ))}
      </div>
    </details>
  );
}
