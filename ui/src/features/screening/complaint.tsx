import { t } from "@lingui/core/macro";
import type { Schema } from "../../api/client";
import { Choice, painScale } from "../../parts/field";
import { SideName } from "../../parts/marks";
import { When } from "../../parts/when";

export type Complaint = Schema["ScreeningComplaint"];

/** How much one place hurts, since when, and at what. */
export function ComplaintPart({
  c,
  name,
  change,
  drop,
}: {
  c: Complaint;
  name: string;
  change: (part: Partial<Complaint>) => void;
  drop: () => void;
}) {
  return (
    <div className="mt-3 border-t border-rule pt-2">
      <p className="flex items-center gap-3">
        <b className="display text-[17px]">{name}</b> <SideName side={c.side} />
        <button
          type="button"
          className="btn-quiet ml-auto"
          aria-label={t`take away: ${name}, ${c.side}`}
          onClick={drop}
        >
          {t`Take away`}
        </button>
      </p>
      <div className="mt-1 grid gap-2">
        {(
          [
            ["now", t`Now`],
            ["firstSteps", t`First steps of the morning`],
            ["rest", t`At rest`],
            ["worst", t`Worst of the week`],
          ] as const
        ).map(([k, label]) => (
          <div key={k} className="flex flex-wrap items-center gap-x-3">
            <span aria-hidden="true" className="w-44 text-[14px]">
              {label}
            </span>
            <Choice
              label={t`${name}, ${c.side}: ${label}, 0 to 10`}
              hideLabel
              compact
              options={painScale}
              value={c[k]}
              onChange={(v) => change({ [k]: v })}
            />
          </div>
        ))}
        <label className="text-[14px]">
          {t`For `}
          <input
            className="field inline-block min-h-8 w-16"
            inputMode="numeric"
            value={c.sinceWeeks ?? ""}
            onChange={(e) => {
              const n = e.target.value.replace(/\D/g, "");
              change({ sinceWeeks: n === "" ? undefined : Math.min(2000, Number(n)) });
            }}
          />
          {t` weeks`}
        </label>
        <When value={c.when} onChange={(when) => change({ when })} />
      </div>
    </div>
  );
}
