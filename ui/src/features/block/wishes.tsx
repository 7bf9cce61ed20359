import { t } from "@lingui/core/macro";
import type { Schema } from "../../api/client";
import { PlanningWishes as limits } from "../../api/limits";
import { Choice } from "../../parts/field";
import { distance, kept, km, unit } from "../../parts/measures";
import { Slide, slideKm } from "../../parts/slide";
import { Tick } from "../../parts/tick";
import type { Wishes } from "./hooks";
import { Hands, Kit, Schools } from "./wishkit";
import { Race, Week } from "./wishweek";

export type View = Schema["WishesView"];

export type SetWishes = (part: Partial<Wishes>) => void;

/** What the runner's week, kit and aims are: everything a plan is fitted to. */
export function WishesForm({
  v,
  w,
  set,
  bad,
  kmNow,
}: {
  v: View;
  w: Wishes;
  set: SetWishes;
  bad: Record<string, string>;
  kmNow: number;
}) {
  return (
    <div className="grid gap-5">
      <Week w={w} set={set} bad={bad} />
      <div className="grid gap-2">
        <Slide
          label={t`Running a week`}
          unit={unit("km")}
          min={0}
          max={slideKm}
          step={1}
          value={w.weeklyKm === undefined ? undefined : Number(km(w.weeklyKm * 1000, 0))}
          empty={kmNow ? t`as now, ${distance(kmNow * 1000, 0)}` : t`not known`}
          rest={Number(km(kmNow * 1000, 0))}
          onChange={(v) => set({ weeklyKm: v === undefined ? undefined : kept("km", v) })}
        />
        <Slide
          label={t`Main sessions a week`}
          unit=""
          min={limits.sessions.minimum}
          max={limits.sessions.maximum}
          step={1}
          value={w.sessions}
          onChange={(sessions) => set({ sessions: sessions ?? 3 })}
        />
        <Slide
          label={t`Length of the block`}
          unit={t`weeks`}
          min={limits.weeks.minimum}
          max={limits.weeks.maximum}
          step={1}
          value={w.weeks}
          onChange={(weeks) => set({ weeks: weeks ?? limits.weeks.minimum })}
        />
        <Slide
          label={t`Runs start at`}
          unit={t`o'clock`}
          min={limits.runHour.minimum}
          max={limits.runHour.maximum}
          step={1}
          value={w.runHour}
          empty={t`not known`}
          rest={7}
          onChange={(runHour) => set({ runHour })}
        />
      </div>
      <div className="flex flex-wrap gap-x-5 gap-y-2">
        <Tick label={t`A few minutes every day`} on={w.micro} onChange={(micro) => set({ micro })} />
        <Tick label={t`Evenings are possible`} on={w.evenings} onChange={(evenings) => set({ evenings })} />
        <Tick
          label={t`Only five minutes a day`}
          on={!!w.small}
          onChange={(small) => set({ small: small || undefined })}
        />
      </div>
      <Choice
        label={t`How far without shoes`}
        compact
        options={[
          { value: "", label: t`not asked for` },
          { value: "home", label: t`at home` },
          { value: "walk", label: t`walking` },
          { value: "minimal", label: t`minimal shoes` },
          { value: "bare", label: t`bare feet` },
        ]}
        value={w.wish ?? ""}
        onChange={(wish) => set({ wish: wish as Wishes["wish"] })}
      />
      <Race w={w} set={set} bad={bad} />
      <Kit v={v} w={w} set={set} />
      <Hands v={v} w={w} set={set} />
      <Schools v={v} w={w} set={set} />
    </div>
  );
}
