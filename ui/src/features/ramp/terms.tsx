import { plural, t } from "@lingui/core/macro";
import { TransitionTerms as limits, PreviewRampInput as preview } from "../../api/limits";
import { Choice, Field } from "../../parts/field";
import { kept, km, unit } from "../../parts/measures";
import { Slide, slideKm } from "../../parts/slide";
import { Weekdays } from "../../parts/tick";
import { runs, stageNames, type Terms } from "./hooks";
import { Millimetres, Pace } from "./pace";

type Bad = Record<string, string>;

/** How far, how much running, which days: everything a ramp is planned with. */
export function TermsForm({
  t: terms,
  set,
  bad,
  away,
  setAway,
  begun,
}: {
  t: Terms;
  set: (part: Partial<Terms>) => void;
  bad: Bad;
  away: number;
  setAway: (n: number) => void;
  begun: boolean;
}) {
  const pace = terms.paceSeconds
    ? `${Math.floor(terms.paceSeconds / 60)}:${String(terms.paceSeconds % 60).padStart(2, "0")}`
    : "";
  return (
    <div className="grid gap-4">
      <Choice
        label={t`How far`}
        compact
        options={stageNames.map(([value, label]) => ({ value, label }))}
        value={terms.goal}
        onChange={(goal) => set({ goal })}
        error={bad["terms.goal"]}
      />
      {runs(terms.goal) && (
        <Slide
          label={t`Of the running, in minimal shoes`}
          unit="%"
          min={limits.targetPercent.minimum}
          max={limits.targetPercent.maximum}
          step={5}
          value={terms.targetPercent}
          onChange={(v) =>
            set({ targetPercent: v ?? 0, barePercent: Math.min(terms.barePercent ?? 0, v ?? 0) || undefined })
          }
        />
      )}
      {terms.goal === "bare" && (
        <Slide
          label={t`Of that, barefoot`}
          unit={t`% of the running`}
          min={0}
          max={terms.targetPercent}
          step={1}
          value={terms.barePercent ?? 0}
          onChange={(v) => set({ barePercent: v })}
        />
      )}
      {runs(terms.goal) && (
        <Slide
          label={t`Running a week`}
          unit={unit("km")}
          min={0}
          max={slideKm}
          step={1}
          value={Number(km(terms.weeklyMetres, 0))}
          onChange={(v) => set({ weeklyMetres: Math.round(kept("km", v ?? 0) * 1000) })}
        />
      )}
      <Slide
        label={t`What if: weeks off, from next week`}
        unit={plural(away, { one: "week", other: "weeks" })}
        min={preview.away.minimum}
        max={preview.away.maximum}
        step={1}
        value={away}
        onChange={(v) => setAway(v ?? 0)}
      />
      {(runs(terms.goal) || terms.goal === "drills") && (
        <div className="grid grid-cols-[1fr_7rem] gap-3">
          <Field
            label={t`Minimal shoe`}
            value={terms.shoe ?? ""}
            maxLength={60}
            hint={terms.shoe ? undefined : t`Strides and runs wait for one`}
            onChange={(e) => set({ shoe: e.target.value || undefined })}
          />
          <Pace
            value={pace}
            onChange={(paceSeconds) => set({ paceSeconds })}
            bad={bad["terms.paceSeconds"]}
          />
        </div>
      )}
      <Weekdays
        label={t`Easy runs on`}
        days={terms.runDays}
        onChange={(runDays) => set({ runDays })}
        bad={bad["terms.runDays"]}
      />
      <Weekdays
        label={t`Main sessions on`}
        days={terms.strengthDays}
        onChange={(strengthDays) => set({ strengthDays })}
        bad={bad["terms.strengthDays"]}
      />
      <div className="grid grid-cols-2 gap-3">
        {!begun && (
          <Field
            label={t`Starts`}
            type="date"
            value={terms.from}
            error={bad["terms.from"]}
            onChange={(e) => e.target.value && set({ from: e.target.value })}
          />
        )}
        <Field
          label={t`Target date`}
          type="date"
          value={terms.by ?? ""}
          onChange={(e) => set({ by: e.target.value || undefined })}
        />
      </div>
      {!begun && (
        <Choice
          label={t`Begins with`}
          compact
          options={stageNames.slice(0, 5).map(([value, label]) => ({ value, label }))}
          value={terms.begin || "home"}
          onChange={(v) => set({ begin: v === "home" ? undefined : (v as Terms["begin"]) })}
          error={bad["terms.begin"]}
        />
      )}
      {runs(terms.goal) && (
        <fieldset>
          <legend className="mb-1 font-semibold">{t`Heel drop of the usual shoe`}</legend>
          <div className="flex items-center gap-2">
            <Millimetres label={t`Now`} value={terms.dropMm} onChange={(dropMm) => set({ dropMm })} />
            {t` to`}
            <Millimetres
              label={t`Wished for`}
              value={terms.dropToMm}
              onChange={(dropToMm) => set({ dropToMm })}
              bad={bad["terms.dropToMm"]}
            />
            {t`mm`}
          </div>
          {bad["terms.dropToMm"] && <p className="text-clay">▲ {bad["terms.dropToMm"]}</p>}
        </fieldset>
      )}
    </div>
  );
}
