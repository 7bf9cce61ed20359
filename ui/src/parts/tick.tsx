import { t } from "@lingui/core/macro";
import type { KeyboardEvent, ReactNode } from "react";

/** The look of every tick box. */
export const tickBox = "size-4.5 shrink-0 accent-[var(--ink)]";

/** A box to tick with its words beside it. */
export function Tick({
  label,
  on,
  onChange,
  disabled,
  name,
  className = "inline-flex min-h-8 items-center gap-2",
  onKeyDown,
}: {
  label?: ReactNode;
  on: boolean;
  onChange: (on: boolean) => void;
  disabled?: boolean;
  /** What a screen reader says, where the words beside the box are not enough. */
  name?: string;
  className?: string;
  onKeyDown?: (e: KeyboardEvent<HTMLInputElement>) => void;
}) {
  return (
    <label className={className}>
      <input
        type="checkbox"
        className={tickBox}
        checked={on}
        disabled={disabled}
        aria-label={name}
        onChange={(e) => onChange(e.target.checked)}
        onKeyDown={onKeyDown}
      />
      {label}
    </label>
  );
}

/** The list with x in it, or without. */
export function withOrWithout<T>(list: readonly T[] | null | undefined, x: T, on: boolean): T[] {
  const rest = (list ?? []).filter((y) => y !== x);
  return on ? [...rest, x] : rest;
}

const weekdays = [t`Mon`, t`Tue`, t`Wed`, t`Thu`, t`Fri`, t`Sat`, t`Sun`] as const;

/** The days of a week to choose from, 0 for Monday. */
export function Weekdays({
  label,
  days,
  onChange,
  bad,
}: {
  label: string;
  days: readonly number[];
  onChange: (days: number[]) => void;
  bad?: string;
}) {
  return (
    <fieldset>
      <legend className="mb-1 font-semibold">{label}</legend>
      <div className="grid max-w-96 grid-cols-7 gap-1">
        {weekdays.map((d, i) => (
          <label
            key={d}
            className="grid min-h-9 place-items-center rounded-[3px] border-[1.5px] border-edge bg-paper text-[14px] font-semibold has-checked:border-ink has-checked:bg-ink has-checked:text-chalk has-focus-visible:outline-3 has-focus-visible:outline-offset-2 has-focus-visible:outline-ink"
          >
            <input
              type="checkbox"
              className="sr-only"
              checked={days.includes(i)}
              onChange={(e) => onChange(withOrWithout(days, i, e.target.checked).sort((a, b) => a - b))}
            />
            {d}
          </label>
        ))}
      </div>
      {bad && <p className="text-clay">▲ {bad}</p>}
    </fieldset>
  );
}
