import { useState } from "react";
import { Field } from "../../parts/field";
import { readNumber } from "../../parts/numbers";

export const numbers = [
  ["runsPerWeek", "Runs a week"],
  ["longestRunKm", "Longest in 30 days, km"],
  ["footMinutesPerDay", "Foot work, minutes a day"],
  ["barefootHoursPerDay", "Barefoot, hours a day"],
  ["shoeDropMm", "Shoe drop, mm"],
  ["shoeStackMm", "Shoe stack, mm"],
] as const;

export const growing = [
  ["heightCm", "Height now, cm"],
  ["heightBeforeCm", "Height before, cm"],
  ["heightMonths", "Months between"],
  ["sportHours", "Sport, hours a week"],
  ["hardHours", "On hard floor, hours a week"],
] as const;

/** A number that is kept when the field is left. */
export function NumberField({
  label,
  value,
  set,
}: {
  label: string;
  value: number | undefined;
  set: (v: number | undefined) => void;
}) {
  const [text, setText] = useState(value?.toString() ?? "");
  const read = readNumber(text, "", "10");
  return (
    <Field
      label={label}
      inputMode="decimal"
      value={text}
      error={read.error}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => {
        if (!read.error && read.value !== value) set(read.value);
      }}
    />
  );
}
