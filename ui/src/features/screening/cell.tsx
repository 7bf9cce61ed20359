import { t } from "@lingui/core/macro";
import { Popover } from "radix-ui";
import { useId, useState } from "react";
import { SideName } from "../../parts/marks";
import { withOrWithout } from "../../parts/tick";
import { useInches } from "../../parts/units";
import { BlockEntry, Seen } from "./block";
import type { Test, Trials } from "./screening";
import { cellId, focusCell, travel } from "./travel";
import { type Entry, emptyEntry, keyOf, type Place } from "./trials";

export const struckSlot = (test: Test, trials: Trials, side: Place, slot: number) => {
  const e = trials.entries[keyOf(test.id, side, slot)];
  return test.compensations.some((c) => c.invalid && e?.compensations.includes(c.id));
};

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
  const label = t`${test.name}, ${side === "both" ? "" : `${side}, `}${slot >= after ? t`after, ` : ""}trial ${slot >= after ? slot - after + 1 : slot}`;
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
                aria-label={t`${label}: block ${e.block.height} by ${e.block.length} cm`}
              >
                {t`Block ${e.block.height || "?"} / ${e.block.length || "?"}`}
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
                aria-label={t`${label}, pain 0 to 10`}
                placeholder={t`pain`}
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
              aria-label={t`${label}: ${struck || e.sharp ? t`struck out, ` : ""}compensations and more`}
            >
              {struck || e.sharp ? "✗" : "+"}
            </Popover.Trigger>
          </div>
        </Popover.Anchor>
        {(error || noted.length > 0 || e.sharp) && (
          <p id={say} className={`mt-0.5 text-[13px] leading-tight ${error ? "text-clay" : "text-ink-2"}`}>
            {error ?? [...noted, ...(e.sharp ? [t`sharp pain`] : [])].join(", ")}
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
            {t`Trial ${slot}, `}
            <SideName side={side} />
          </h3>
          <fieldset>
            <legend className="text-[14px] text-ink-2">{t`Seen in this trial (✗ does not count)`}</legend>
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
            <Seen label={t`stopped by a sharp pain`} on={e.sharp} set={(sharp) => change({ sharp })} />
          </fieldset>
          {test.block && <BlockEntry entry={e} change={change} />}
          <div className="mt-3 flex gap-2">
            <Popover.Close className="btn min-h-8 px-3">{t`Done`}</Popover.Close>
            <button
              type="button"
              className="btn min-h-8 px-3"
              onClick={() => {
                change({ ...emptyEntry, block: undefined });
                setOpen(false);
              }}
            >
              {t`Take out`}
            </button>
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
