import { Popover } from "radix-ui";
import { type KeyboardEvent, useId, useState } from "react";
import { Choice } from "../../parts/field";
import { SideName } from "../../parts/marks";
import { withOrWithout } from "../../parts/tick";
import { useInches } from "../../parts/units";
import { BlockEntry, Seen } from "./block";
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
          <legend className="sr-only">{name}: seen</legend>
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
              label="nothing to note"
              on={e.text === "0" && e.compensations.length === 0}
              set={(on) => set({ text: on ? "0" : "", compensations: [] })}
            />
          )}
        </fieldset>
      )}
      {e.compensations.includes("cramps") && (
        <label className="text-[14px]">
          cramp at repetition{" "}
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

export const struckSlot = (test: Test, trials: Trials, side: Place, slot: number) => {
  const e = trials.entries[keyOf(test.id, side, slot)];
  return test.compensations.some((c) => c.invalid && e?.compensations.includes(c.id));
};

const cellId = (test: string, side: Place, slot: number) => `t-${test}-${side}-${slot}`;

/** Moves the focus; returns whether there was somewhere to go. */
function focusCell(where: Element | null | undefined): boolean {
  if (!(where instanceof HTMLInputElement)) return false;
  where.focus();
  where.select();
  return true;
}

function travel(e: KeyboardEvent<HTMLInputElement>) {
  const all = [...document.querySelectorAll<HTMLInputElement>("input[data-cell]:not(:disabled)")];
  const at = all.indexOf(e.currentTarget);
  const { test = "", side = "left", slot = "1" } = e.currentTarget.dataset;
  const edge =
    e.currentTarget.selectionStart === e.currentTarget.selectionEnd || e.currentTarget.value === "";
  const caret = e.currentTarget.selectionStart ?? 0;
  let to: Element | null | undefined;
  if (e.key === "Enter") to = all[at + (e.shiftKey ? -1 : 1)];
  else if (e.key === "ArrowRight" && edge && caret === e.currentTarget.value.length) to = all[at + 1];
  else if (e.key === "ArrowLeft" && edge && caret === 0) to = all[at - 1];
  else if (e.key === "ArrowDown" || e.key === "ArrowUp") {
    const tests = [...new Set(all.map((i) => i.dataset.test))];
    const next = tests[tests.indexOf(test) + (e.key === "ArrowDown" ? 1 : -1)];
    to = next
      ? (document.getElementById(cellId(next, side as Place, Number(slot))) ??
        document.getElementById(cellId(next, side as Place, 1)))
      : null;
  } else return;
  e.preventDefault();
  if (!focusCell(to) && e.key === "Enter") document.getElementById("finish")?.focus();
}

export function Cell({
  after,
  test,
  side,
  slot,
  trials,
  locked,
  struck,
}: {
  after: number;
  test: Test;
  side: Place;
  slot: number;
  trials: Trials;
  locked: boolean;
  struck: boolean;
}) {
  const [open, setOpen] = useState(false);
  const k = keyOf(test.id, side, slot);
  const e: Entry = trials.entries[k] ?? emptyEntry;
  const error = trials.errors[k];
  const say = useId();
  const change = (part: Partial<Entry>) => trials.change(test, side, slot, part);
  const label = `${test.name}, ${side === "both" ? "" : `${side}, `}${slot >= after ? "after, " : ""}trial ${slot >= after ? slot - after + 1 : slot}`;
  const inch = useInches() && test.unit === "cm";
  const unit = test.unit === "°" ? "degrees" : inch ? "inches" : test.unit;
  const ring =
    side === "left"
      ? "focus-within:border-lefty"
      : side === "right"
        ? "focus-within:border-righty"
        : "focus-within:border-ink";
  const noted = test.compensations.filter((c) => e.compensations.includes(c.id)).map((c) => c.name);
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <div className="max-w-44">
        <Popover.Anchor asChild>
          <div
            className={`flex items-stretch rounded-[3px] border-[1.5px] bg-paper ${error ? "border-clay" : "border-edge"} ${ring}`}
          >
            {e.block ? (
              <button
                type="button"
                className="px-2 text-[14px] underline underline-offset-4"
                disabled={locked}
                onClick={() => setOpen(true)}
                aria-label={`${label}: block ${e.block.height} by ${e.block.length} cm`}
              >
                block {e.block.height || "?"} / {e.block.length || "?"}
              </button>
            ) : (
              <input
                id={cellId(test.id, side, slot)}
                data-cell
                data-test={test.id}
                data-side={side}
                data-slot={slot}
                inputMode="decimal"
                autoComplete="off"
                aria-label={`${label}, ${unit}`}
                aria-invalid={!!error}
                aria-describedby={error || noted.length ? say : undefined}
                disabled={locked}
                className={`h-9 w-14 bg-transparent px-2 text-right font-semibold outline-none ${struck ? "text-ink-2 line-through decoration-2" : ""}`}
                value={e.text}
                onChange={(ev) => change({ text: ev.target.value })}
                onBlur={trials.commit}
                onKeyDown={(ev) => {
                  if (ev.key === "c" && test.compensations.length > 0 && !ev.ctrlKey && !ev.metaKey) {
                    ev.preventDefault();
                    setOpen(true);
                  } else travel(ev);
                }}
              />
            )}
            {test.asksPain && (
              <input
                data-cell
                data-test={test.id}
                data-side={side}
                data-slot={slot}
                inputMode="decimal"
                autoComplete="off"
                aria-label={`${label}, pain 0 to 10`}
                placeholder="pain"
                disabled={locked}
                className="h-9 w-13 border-l border-rule bg-transparent px-1.5 text-center outline-none"
                value={e.pain}
                onChange={(ev) => change({ pain: ev.target.value })}
                onBlur={trials.commit}
                onKeyDown={travel}
              />
            )}
            <Popover.Trigger
              className={`w-8 border-l border-rule ${struck || e.sharp ? "font-bold text-clay" : "text-ink-2"}`}
              disabled={locked}
              aria-label={`${label}: ${struck || e.sharp ? "struck out, " : ""}compensations and more`}
            >
              {struck || e.sharp ? "✗" : "+"}
            </Popover.Trigger>
          </div>
        </Popover.Anchor>
        {(error || noted.length > 0 || e.sharp) && (
          <p id={say} className={`mt-0.5 text-[13px] leading-tight ${error ? "text-clay" : "text-ink-2"}`}>
            {error ?? [...noted, ...(e.sharp ? ["sharp pain"] : [])].join(", ")}
          </p>
        )}
      </div>
      <Popover.Portal>
        <Popover.Content
          className="panel w-72"
          sideOffset={6}
          collisionPadding={12}
          onCloseAutoFocus={(ev) => {
            ev.preventDefault();
            trials.commit();
            focusCell(document.getElementById(cellId(test.id, side, slot)));
          }}
        >
          <h3 className="mb-2">
            Trial {slot}, <SideName side={side} />
          </h3>
          <fieldset>
            <legend className="text-[14px] text-ink-2">Seen in this trial (✗ does not count)</legend>
            {test.compensations.map((c) => (
              <Seen
                key={c.id}
                label={`${c.invalid ? "✗ " : ""}${c.name}`}
                on={e.compensations.includes(c.id)}
                set={(on) =>
                  change({
                    compensations: withOrWithout(e.compensations, c.id, on),
                  })
                }
              />
            ))}
            <Seen label="stopped by a sharp pain" on={e.sharp} set={(sharp) => change({ sharp })} />
          </fieldset>
          {test.block && <BlockEntry entry={e} change={change} />}
          <div className="mt-3 flex gap-2">
            <Popover.Close className="btn min-h-8 px-3">Done</Popover.Close>
            <button
              type="button"
              className="btn min-h-8 px-3"
              onClick={() => {
                change({ ...emptyEntry, block: undefined });
                setOpen(false);
              }}
            >
              Take out
            </button>
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
