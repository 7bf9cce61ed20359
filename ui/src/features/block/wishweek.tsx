import { t } from "@lingui/core/macro";
import { useState } from "react";
import { PlanningRace as race } from "../../api/limits";
import { kept, shown, unit } from "../../parts/measures";
import { Tick } from "../../parts/tick";
import { type Wishes, weekdays } from "./hooks";
import type { SetWishes } from "./wishes";

const runKinds = [
  { value: "", label: "–", title: t`no run` },
  { value: "easy", label: t`easy`, title: t`easy run` },
  { value: "long", label: t`long`, title: t`long run` },
  { value: "fast", label: t`fast`, title: t`fast run` },
];

type RunKind = "" | "easy" | "long" | "fast";

const put = <T,>(list: readonly T[], i: number, v: T): T[] => list.map((x, k) => (k === i ? v : x));

export function Week({ w, set, bad }: { w: Wishes; set: SetWishes; bad: Record<string, string> }) {
  const runs = w.runs ?? [];
  const minutes = w.minutes ?? [];
  const prefer = w.prefer ?? [];
  const avoid = w.avoid ?? [];
  const second = w.second ?? Array.from({ length: 7 }, () => "" as const);
  const hours = w.hours ?? Array.from({ length: 7 }, () => null);
  const [fixed, setFixed] = useState(second.some((x) => x !== "") || hours.some((x) => x != null));
  return (
    <fieldset>
      <legend className="mb-1 font-semibold">{t`The week`}</legend>
      <table className="w-full table-fixed border-collapse text-[14px]">
        <thead>
          <tr className="text-left text-[13px] text-ink-2">
            <th scope="col" className="w-11 font-normal">
              {t`Day`}
            </th>
            <th scope="col" className="font-normal">
              {t`Run`}
            </th>
            <th scope="col" className="w-20 font-normal">
              {t`Minutes`}
            </th>
            <th scope="col" className="w-24 font-normal">
              {t`Main session`}
            </th>
          </tr>
        </thead>
        <tbody>
          {weekdays.map((d, i) => (
            <tr key={d} className="border-t border-rule">
              <th scope="row" className="text-left font-semibold">
                {d}
              </th>
              <td className="py-1 pr-2">
                <select
                  aria-label={t`${d}: run`}
                  className="field min-h-9 px-2 py-1"
                  value={runs[i] ?? ""}
                  onChange={(e) =>
                    set({
                      runs: put(runs, i, e.target.value as RunKind),
                      second: e.target.value ? second : put(second, i, ""),
                      hours: e.target.value ? hours : put(hours, i, null),
                    })
                  }
                >
                  {runKinds.map((k) => (
                    <option key={k.value} value={k.value}>
                      {k.title}
                    </option>
                  ))}
                </select>
                {fixed && runs[i] && (
                  <span className="mt-1 flex gap-1">
                    <input
                      aria-label={t`${d}: hour the run starts`}
                      className="field min-h-9 w-14 px-1.5 py-1"
                      type="number"
                      min={0}
                      max={23}
                      placeholder="h"
                      aria-invalid={!!bad[`wishes.hours[${i}]`]}
                      value={hours[i] ?? ""}
                      onChange={(e) =>
                        set({ hours: put(hours, i, e.target.value === "" ? null : Number(e.target.value)) })
                      }
                    />
                    <select
                      aria-label={t`${d}: second run`}
                      className="field min-h-9 min-w-0 flex-1 px-1.5 py-1"
                      value={second[i] ?? ""}
                      onChange={(e) => set({ second: put(second, i, e.target.value as RunKind) })}
                    >
                      {runKinds.map((k) => (
                        <option key={k.value} value={k.value}>
                          {k.value ? t`then ${k.value}` : t`one run`}
                        </option>
                      ))}
                    </select>
                  </span>
                )}
              </td>
              <td className="py-1 pr-2">
                <input
                  aria-label={t`${d}: free minutes`}
                  className="field min-h-9 px-2 py-1"
                  type="number"
                  min={0}
                  max={240}
                  step={5}
                  aria-invalid={!!bad[`wishes.minutes[${i}]`]}
                  value={minutes[i] ?? 0}
                  onChange={(e) => set({ minutes: put(minutes, i, Number(e.target.value)) })}
                />
              </td>
              <td className="py-1">
                <select
                  aria-label={t`${d}: liked or avoided for a main session`}
                  className="field min-h-9 px-2 py-1"
                  value={prefer[i] && avoid[i] ? "both" : prefer[i] ? "like" : avoid[i] ? "avoid" : ""}
                  onChange={(e) =>
                    set({
                      prefer: put(prefer, i, e.target.value === "like"),
                      avoid: put(avoid, i, e.target.value === "avoid"),
                    })
                  }
                >
                  <option value="">{t`fine`}</option>
                  <option value="like">{t`liked`}</option>
                  <option value="avoid">{t`rather not`}</option>
                </select>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="mt-2 flex flex-wrap items-center gap-x-5 gap-y-2">
        <Tick
          label={t`Fixed hours, or two runs on a day`}
          on={fixed}
          onChange={(on) => {
            setFixed(on);
            if (!on) set({ second: second.map(() => ""), hours: hours.map(() => null), later: undefined });
          }}
        />
        {second.some((x) => x !== "") && (
          <label className="flex items-center gap-2 text-[14px]">
            {t`Second runs start at`}
            <input
              type="number"
              min={0}
              max={23}
              placeholder="18"
              className="field min-h-9 w-16 px-1.5 py-1"
              value={w.later ?? ""}
              onChange={(e) => set({ later: e.target.value === "" ? undefined : Number(e.target.value) })}
            />
            {t`o'clock`}
          </label>
        )}
      </div>
      {Object.entries(bad)
        .filter(
          ([k]) =>
            k.startsWith("wishes.minutes") ||
            k.startsWith("wishes.runs") ||
            k.startsWith("wishes.second") ||
            k.startsWith("wishes.hours") ||
            k.startsWith("wishes.later"),
        )
        .map(([k, x]) => (
          <p key={k} className="text-[14px] text-clay">
            ▲ {x}
          </p>
        ))}
    </fieldset>
  );
}

export function Race({ w, set, bad }: { w: Wishes; set: SetWishes; bad: Record<string, string> }) {
  return (
    <fieldset className="flex flex-wrap items-end gap-3">
      <legend className="mb-1 font-semibold">{t`Race`}</legend>
      <label>
        <span className="block text-[13px] text-ink-2">{t`Date`}</span>
        <input
          type="date"
          className="field w-44"
          value={w.race?.on ?? ""}
          onChange={(e) =>
            set({ race: e.target.value ? { on: e.target.value, km: w.race?.km ?? 10 } : undefined })
          }
        />
      </label>
      {w.race && (
        <label>
          <span className="block text-[13px] text-ink-2">{t`Distance, ${unit("km")}`}</span>
          <input
            type="number"
            min={race.km.minimum}
            max={race.km.maximum}
            step="any"
            className="field w-28"
            aria-invalid={!!bad["wishes.race.km"]}
            value={shown("km", w.race.km)}
            onChange={(e) => w.race && set({ race: { ...w.race, km: kept("km", Number(e.target.value)) } })}
          />
        </label>
      )}
      {w.race && (
        <button type="button" className="btn-quiet" onClick={() => set({ race: undefined })}>
          {t`No race`}
        </button>
      )}
    </fieldset>
  );
}
