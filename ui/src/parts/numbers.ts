import { t } from "@lingui/core/macro";
export type Typed = { value?: number; error?: string };

/** Reads what was typed into a number field; a comma counts as a point. */
export function readNumber(text: string, unit: string, example: string): Typed {
  const typed = text.trim().replace(",", ".");
  if (typed === "") return {};
  if (!/^-?\d+(\.\d+)?$/.test(typed))
    return { error: t`A number${unit ? t` in ${unit}` : ""} is expected, like ${example}` };
  return { value: Number(typed) };
}

export const show = (v: number | undefined, decimals: number) => (v === undefined ? "" : v.toFixed(decimals));
