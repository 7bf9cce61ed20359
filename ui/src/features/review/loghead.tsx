import { t } from "@lingui/core/macro";
import type { Schema } from "../../api/client";
import { plusDays, weekDay } from "../../parts/dates";
import { Choice, Field, painScale } from "../../parts/field";
import { RunnerHead } from "../../parts/runnerhead";
import { agreed, type Line, type Prescription, type Row, type Typed } from "./model";

type Block = Schema["Block"];

/** Whose log, of which day, with the other days that are typed and not saved. */
export function LogHead({
  b,
  on,
  waiting,
  toDay,
  allClean,
  bad,
}: {
  b: Block;
  on: string;
  waiting: string[];
  toDay: (to: string) => void;
  allClean: () => void;
  bad: string | undefined;
}) {
  return (
    <>
      <RunnerHead
        id={b.runnerId}
        name={b.runnerName}
        here="plan"
        page={t`Log the session of ${weekDay(on)}`}
        slim
      >
        <div className="flex gap-1">
          <button
            type="button"
            className="btn px-3"
            aria-label={t`The day before`}
            disabled={on <= b.startOn}
            onClick={() => toDay(plusDays(on, -1))}
          >
            ←
          </button>
          <button
            type="button"
            className="btn px-3"
            aria-label={t`The day after`}
            disabled={on >= b.today}
            onClick={() => toDay(plusDays(on, 1))}
          >
            →
          </button>
        </div>
        <Field
          label={t`Date`}
          type="date"
          max={b.today}
          min={b.startOn}
          value={on}
          error={bad}
          onChange={(e) => toDay(e.target.value || b.today)}
        />
        <button type="button" className="btn" onClick={allClean}>
          {t`All done, all clean`}
        </button>
      </RunnerHead>
      {waiting.length > 0 && (
        <p role="status" className="mb-3 flex flex-wrap items-center gap-2">
          {t`Typed and not saved yet:`}
          {waiting.map((d) => (
            <button key={d} type="button" className="btn-quiet" onClick={() => toDay(d)}>
              {weekDay(d)}
            </button>
          ))}
        </p>
      )}
    </>
  );
}

/** One answer for all ladders; single rows are changed below. */
export function Everywhere({
  b,
  used,
  v,
  set,
}: {
  b: Block;
  used: Row[];
  v: Typed;
  set: (part: (p: Prescription) => Line) => void;
}) {
  const reserve = b.choices.reserve.map((c) => ({ value: c.value, label: c.words }));
  return (
    <div className="mb-4 flex flex-wrap items-end gap-x-8 gap-y-2 border-l-4 border-edge bg-paper p-3">
      <Choice
        label={t`Pain everywhere; change single rows below`}
        compact
        options={painScale}
        value={agreed(used, v, (l, p) => (p.purpose === "release" ? l.sore : l.pain))}
        onChange={(n) => set((p) => (p.purpose === "release" ? { sore: n } : { pain: n }))}
      />
      <Choice
        label={t`Reps left in reserve, everywhere`}
        compact
        options={reserve}
        value={agreed(used, v, (l, p) => (p.effort === "reserve" ? l.reserve : null))}
        onChange={(n) =>
          set((p) =>
            p.effort === "reserve"
              ? { reserve: n }
              : p.effort === "twenty"
                ? { sure: b.choices.reserve.find((c) => c.value === n)?.enough ? 1 : 0 }
                : {},
          )
        }
      />
    </div>
  );
}
