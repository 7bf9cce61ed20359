import { type ComponentProps, type ReactNode, useId, useRef } from "react";

type Wrap = { label: ReactNode; hint?: ReactNode; error?: string };

/** A labelled input with its hint, and what is wrong right beside it. */
export function Field({ label, hint, error, className, ...input }: Wrap & ComponentProps<"input">) {
  const id = useId();
  return (
    <div className={className}>
      <label htmlFor={id} className="mb-1 block font-semibold">
        {label}
      </label>
      <input
        id={id}
        className="field"
        aria-invalid={!!error}
        aria-describedby={error || hint ? `${id}-say` : undefined}
        {...input}
      />
      <Say id={`${id}-say`} error={error} hint={hint} />
    </div>
  );
}

export function Area({ label, hint, error, className, ...input }: Wrap & ComponentProps<"textarea">) {
  const id = useId();
  return (
    <div className={className}>
      <label htmlFor={id} className="mb-1 block font-semibold">
        {label}
      </label>
      <textarea id={id} className="field" aria-invalid={!!error} aria-describedby={`${id}-say`} {...input} />
      <Say id={`${id}-say`} error={error} hint={hint} />
    </div>
  );
}

export function Say({ id, error, hint }: { id: string; error?: string; hint?: ReactNode }) {
  if (error)
    return (
      <p id={id} className="mt-1 text-[14px] text-clay">
        <span aria-hidden="true">▲ </span>
        {error}
      </p>
    );
  return hint ? (
    <p id={id} className="mt-1 text-[14px] text-ink-2">
      {hint}
    </p>
  ) : null;
}

/** A labelled choice out of a list; quiet where it only sorts what is shown. */
export function Select({
  label,
  value,
  onChange,
  options,
  all,
  quiet,
}: {
  label: string;
  value: string;
  onChange: (v: string) => void;
  options: [string, string][];
  all?: string;
  quiet?: boolean;
}) {
  return (
    <label className="min-w-0">
      <span className={quiet ? "mb-1 block text-[13px] text-ink-2" : "mb-1 block font-semibold"}>
        {label}
      </span>
      <select className="field" value={value} onChange={(e) => onChange(e.target.value)}>
        {all !== undefined && <option value="">{all}</option>}
        {options.map(([v, n]) => (
          <option key={v} value={v}>
            {n}
          </option>
        ))}
      </select>
    </label>
  );
}

/** How long after a 1 a 0 still makes it ten, in ms. */
const tenWithin = 1500;

export type Option<T> = { value: T; label: string; title?: string };

/** A row of choices; arrows move, digits choose where the options are numbers. */
export function Choice<T extends string | number>({
  label,
  options,
  value,
  onChange,
  error,
  compact,
  hideLabel,
}: {
  label: string;
  options: Option<T>[];
  value: T | undefined;
  onChange: (v: T) => void;
  error?: string;
  compact?: boolean;
  hideLabel?: boolean;
}) {
  const name = useId();
  const one = useRef(Number.NEGATIVE_INFINITY);
  return (
    <fieldset
      onKeyDown={(e) => {
        const hit = options.find((o) => String(o.value) === e.key);
        if (hit && !e.ctrlKey && !e.metaKey && !e.altKey) {
          e.preventDefault();
          // 1 and 0 typed in one go are ten, where ten is a choice. A 0 over a 1
          // that stood there is nought.
          const quick = e.timeStamp - one.current < tenWithin && value === 1;
          const ten = e.key === "0" && quick ? options.find((o) => o.value === 10) : undefined;
          one.current = e.key === "1" ? e.timeStamp : Number.NEGATIVE_INFINITY;
          onChange((ten ?? hit).value);
        }
      }}
    >
      <legend className={hideLabel ? "sr-only" : "mb-1 font-semibold"}>{label}</legend>
      <div className="flex flex-wrap gap-1">
        {options.map((o) => (
          <label
            key={o.value}
            title={o.title}
            className={`grid place-items-center rounded-[3px] border-[1.5px] border-edge bg-paper font-semibold has-checked:border-ink has-checked:bg-ink has-checked:text-chalk has-focus-visible:outline-3 has-focus-visible:outline-offset-2 has-focus-visible:outline-ink ${compact ? "min-h-8 min-w-7 px-1.5 text-[14px]" : "min-h-10 min-w-10 px-3"}`}
          >
            <input
              type="radio"
              className="sr-only"
              name={name}
              checked={value === o.value}
              onChange={() => onChange(o.value)}
            />
            {o.label}
          </label>
        ))}
      </div>
      <Say id={`${name}-say`} error={error} />
    </fieldset>
  );
}

export const painScale: Option<number>[] = Array.from({ length: 11 }, (_, i) => ({
  value: i,
  label: String(i),
}));
