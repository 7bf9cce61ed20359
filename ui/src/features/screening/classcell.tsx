import { t } from "@lingui/core/macro";
import { Choice } from "../../parts/field";
import { withOrWithout } from "../../parts/tick";
import { Seen } from "./block";
import type { Test, Trials } from "./screening";
import { type Entry, emptyEntry, keyOf, type Place } from "./trials";

/** A test judged by eye: one choice, or faults to tick. */
export function ClassCell({
  after,
  test,
  place,
  slot,
  trials,
  locked,
}: {
  /** The first place of a look after a routine. */
  after: number;
  test: Test;
  place: Place;
  slot: number;
  trials: Trials;
  locked: boolean;
}) {
  const k = keyOf(test.id, place, slot);
  const e = trials.entries[k] ?? emptyEntry;
  const set = (part: Partial<Entry>) => {
    if (locked) return;
    trials.change(test, place, slot, part);
    trials.commit();
  };
  const name = `${test.name}, ${place === "both" ? "" : `${place}, `}${slot >= after ? "after" : "now"}`;
  const faults = test.checks.length > 0;
  return (
    <div className={`grid w-full gap-1 ${place === "left" ? "md:justify-items-end" : ""}`}>
      {!faults && (
        <fieldset disabled={locked}>
          <Choice
            label={name}
            hideLabel
            compact
            options={test.options.map((o) => ({ value: o.value, label: o.label }))}
            value={e.text === "" ? undefined : Number(e.text)}
            onChange={(v) => set({ text: String(v) })}
          />
        </fieldset>
      )}
      {test.compensations.length > 0 && (
        <fieldset disabled={locked} className="flex flex-wrap gap-x-4 text-[14px]">
          <legend className="sr-only">{t`${name}: seen`}</legend>
          {test.compensations.map((c) => (
            <Seen
              key={c.id}
              label={c.name}
              on={e.compensations.includes(c.id)}
              set={(on) =>
                set({
                  text: faults ? "0" : e.text,
                  compensations: withOrWithout(e.compensations, c.id, on),
                })
              }
            />
          ))}
          {faults && (
            <Seen
              label={t`nothing to note`}
              on={e.text === "0" && e.compensations.length === 0}
              set={(on) => set({ text: on ? "0" : "", compensations: [] })}
            />
          )}
        </fieldset>
      )}
      {e.compensations.includes("cramps") && (
        <label className="text-[14px]">
          {t`cramp at repetition `}
          <input
            className="field inline-block min-h-8 w-16"
            inputMode="numeric"
            disabled={locked}
            value={e.crampAt ?? ""}
            onChange={(ev) => {
              const n = Number(ev.target.value.replace(/\D/g, ""));
              set({ crampAt: n > 0 ? Math.min(100, n) : undefined });
            }}
          />
        </label>
      )}
      {trials.errors[k] && <p className="text-[13px] text-clay">{trials.errors[k]}</p>}
    </div>
  );
}
