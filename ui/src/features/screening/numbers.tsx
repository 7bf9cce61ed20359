import { t } from "@lingui/core/macro";
import { useState } from "react";
import { Field } from "../../parts/field";
import { shown, type Unit, unit } from "../../parts/measures";
import { readNumber } from "../../parts/numbers";

export const numbers = [
  ["runsPerWeek", t`Runs a week`],
  ["longestRunKm", t`Longest in 30 days`, "km"],
  ["footMinutesPerDay", t`Foot work, minutes a day`],
  ["barefootHoursPerDay", t`Barefoot, hours a day`],
  ["shoeDropMm", t`Shoe drop, mm`],
  ["shoeStackMm", t`Shoe stack, mm`],
] as const;

export const growing = [
  ["heightCm", t`Height now, cm`],
  ["heightBeforeCm", t`Height before, cm`],
  ["heightMonths", t`Months between`],
  ["sportHours", t`Sport, hours a week`],
  ["hardHours", t`On hard floor, hours a week`],
] as const;

/** A number that is kept when the field is left. */
export function NumberField({
  label,
  value,
  set,
  of,
}: {
  label: string;
  of?: Unit;
  value: number | undefined;
  set: (v: number | undefined) => void;
}) {
  const [text, setText] = useState(of ? shown(of, value) : (value?.toString() ?? ""));
  const read = readNumber(text, of ?? "", "10");
  return (
    <Field
      label={of ? `${label}, ${unit(of)}` : label}
      inputMode="decimal"
      value={text}
      error={read.error}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => {
        if (!read.error && text !== (of ? shown(of, value) : (value?.toString() ?? ""))) set(read.value);
      }}
    />
  );
}
