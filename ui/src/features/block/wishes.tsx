import type { Schema } from "../../api/client";
import { PlanningWishes as limits } from "../../api/limits";
import { Choice } from "../../parts/field";
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
          label="Running a week"
          unit="km"
          min={0}
          max={slideKm}
          step={1}
          value={w.weeklyKm}
          empty={kmNow ? `as now, ${kmNow} km` : "not known"}
          rest={kmNow}
          onChange={(weeklyKm) => set({ weeklyKm })}
        />
        <Slide
          label="Main sessions a week"
          unit=""
          min={limits.sessions.minimum}
          max={limits.sessions.maximum}
          step={1}
          value={w.sessions}
          onChange={(sessions) => set({ sessions: sessions ?? 3 })}
        />
        <Slide
          label="Length of the block"
          unit="weeks"
          min={limits.weeks.minimum}
          max={limits.weeks.maximum}
          step={1}
          value={w.weeks}
          onChange={(weeks) => set({ weeks: weeks ?? limits.weeks.minimum })}
        />
        <Slide
          label="Runs start at"
          unit="o'clock"
          min={limits.runHour.minimum}
          max={limits.runHour.maximum}
          step={1}
          value={w.runHour}
          empty="not known"
          rest={7}
          onChange={(runHour) => set({ runHour })}
        />
      </div>
      <div className="flex flex-wrap gap-x-5 gap-y-2">
        <Tick label="A few minutes every day" on={w.micro} onChange={(micro) => set({ micro })} />
        <Tick label="Evenings are possible" on={w.evenings} onChange={(evenings) => set({ evenings })} />
        <Tick
          label="Only five minutes a day"
          on={!!w.small}
          onChange={(small) => set({ small: small || undefined })}
        />
      </div>
      <Choice
        label="How far without shoes"
        compact
        options={[
          { value: "", label: "not asked for" },
          { value: "home", label: "at home" },
          { value: "walk", label: "walking" },
          { value: "minimal", label: "minimal shoes" },
          { value: "bare", label: "bare feet" },
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
