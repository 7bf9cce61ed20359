export type Typed = { value?: number; error?: string };

/** Reads what was typed into a number field; a comma counts as a point. */
export function readNumber(text: string, unit: string, example: string): Typed {
  const t = text.trim().replace(",", ".");
  if (t === "") return {};
  if (!/^-?\d+(\.\d+)?$/.test(t))
    return { error: `A number${unit ? ` in ${unit}` : ""} is expected, like ${example}` };
  return { value: Number(t) };
}

export const show = (v: number | undefined, decimals: number) => (v === undefined ? "" : v.toFixed(decimals));
