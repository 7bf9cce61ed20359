import { t } from "@lingui/core/macro";
import { isUnit, kept, unit as named } from "./measures";
export type Typed = { value?: number; error?: string };

/** Reads what was typed into a number field; a comma counts as a point. */
export function readNumber(text: string, unit: string, example: string): Typed {
  const typed = text.trim().replace(",", ".");
  if (typed === "") return {};
  const said = isUnit(unit) ? named(unit) : unit;
  if (!/^-?\d+(\.\d+)?$/.test(typed))
    return { error: t`A number${unit ? t` in ${said}` : ""} is expected, like ${example}` };
  return { value: isUnit(unit) ? kept(unit, Number(typed)) : Number(typed) };
}

export const show = (v: number | undefined, decimals: number) => (v === undefined ? "" : v.toFixed(decimals));
