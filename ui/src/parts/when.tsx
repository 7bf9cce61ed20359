/** When a place can hurt. */
const times = ["first steps", "push-off", "after sitting", "whole run", "only after", "at rest", "night"];

/** Ticks for when a place hurts. */
export function When({
  value,
  onChange,
}: {
  value: readonly string[] | null | undefined;
  onChange: (v: string[]) => void;
}) {
  const on = value ?? [];
  return (
    <div className="flex flex-wrap gap-x-4 text-[14px]">
      {times.map((w) => (
        <label key={w} className="flex min-h-7 items-center gap-1.5">
          <input
            type="checkbox"
            className="size-4 accent-[var(--ink)]"
            checked={on.includes(w)}
            onChange={(e) => onChange(e.target.checked ? [...on, w] : on.filter((x) => x !== w))}
          />
          {w}
        </label>
      ))}
    </div>
  );
}
