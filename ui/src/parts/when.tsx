import { t } from "@lingui/core/macro";
import { Tick, withOrWithout } from "./tick";

/** When a place can hurt. */
const times = [
  t`first steps`,
  "push-off",
  t`after sitting`,
  t`whole run`,
  t`only after`,
  t`at rest`,
  "night",
];

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
        <Tick
          key={w}
          className="flex min-h-7 items-center gap-1.5"
          label={w}
          on={on.includes(w)}
          onChange={(ticked) => onChange(withOrWithout(on, w, ticked))}
        />
      ))}
    </div>
  );
}
