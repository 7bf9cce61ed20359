// Distances, speeds and weights as somebody reads and types them. Everything is kept in
// km and kg; what is measured on a body stays in the units of its test.

export type Unit = "km" | "km/h" | "kg";

let imperial = false;

/** From now on they are read and typed so. */
export function unitsAre(system: string | undefined) {
  imperial = system === "imperial";
}

// The international mile and pound, exact.
const kmOfMile = 1.609344;
const kgOfPound = 0.45359237;
const each = (u: Unit) => (imperial ? (u === "kg" ? kgOfPound : kmOfMile) : 1);
const names = { km: "mi", "km/h": "mph", kg: "lb" } as const;

/** What a unit is called. */
export const unit = (u: Unit): string => (imperial ? names[u] : u);

/** A kept value as a number to read or to begin typing from; "" for none. */
export const shown = (u: Unit, value: number | undefined | null, decimals = 2): string =>
  value === undefined || value === null
    ? ""
    : imperial
      ? String(Number((value / each(u)).toFixed(decimals)))
      : String(value);

/** What was typed, as it is kept. */
export const kept = (u: Unit, typed: number): number =>
  imperial ? Math.round(typed * each(u) * 1000) / 1000 : typed;

export const isUnit = (u: string): u is Unit => u === "km" || u === "km/h" || u === "kg";

/** The number of a distance. */
export const km = (metres: number, decimals = 1): string => (metres / 1000 / each("km")).toFixed(decimals);

/** A distance with its unit. */
export const distance = (metres: number, decimals = 1): string => `${km(metres, decimals)} ${unit("km")}`;

// Where the program wrote a number and its unit a space stands between that nobody types.
const written = /(\d+(?:\.\d+)?)\u00a0(km\/h|km|kg)\b/g;

/** An answer of the server with what the program wrote of distances and weights. */
export function inUnits<T>(x: T): T {
  if (!imperial) return x;
  if (typeof x === "string")
    return x.replace(
      written,
      (_, n: string, u: Unit) => `${Number((Number(n) / each(u)).toFixed(1))}\u00a0${unit(u)}`,
    ) as T;
  if (Array.isArray(x)) return x.map(inUnits) as T;
  if (x !== null && typeof x === "object")
    return Object.fromEntries(Object.entries(x).map(([k, v]) => [k, inUnits(v)])) as T;
  return x;
}
