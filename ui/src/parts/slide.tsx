/** Where a slider of weekly kilometres ends; more is typed in the profile. */
export const slideKm = 140;

/** A slider with its value beside it; where it can be empty, a way back to that. */
export function Slide({
  label,
  unit,
  min,
  max,
  step,
  value,
  empty,
  rest,
  onChange,
}: {
  label: string;
  unit: string;
  min: number;
  max: number;
  step: number;
  value: number | undefined;
  empty?: string;
  rest?: number;
  onChange: (v: number | undefined) => void;
}) {
  const words = value === undefined ? (empty ?? "") : `${value} ${unit}`.trim();
  return (
    <div>
      <label className="block">
        <span className="flex justify-between gap-2">
          <span className="font-semibold">{label}</span>
          <span className="whitespace-nowrap">{words}</span>
        </span>
        <input
          type="range"
          className="h-6 w-full accent-[var(--ink)]"
          min={min}
          max={max}
          step={step}
          value={value ?? rest ?? min}
          aria-valuetext={words}
          onChange={(e) => onChange(Number(e.target.value))}
        />
      </label>
      {empty && value !== undefined && (
        <button
          type="button"
          className="btn-quiet"
          aria-label={`${label}: ${empty}`}
          onClick={() => onChange(undefined)}
        >
          {empty}
        </button>
      )}
    </div>
  );
}
