import { useSyncExternalStore } from "react";

const INCH = 2.54;
const listeners = new Set<() => void>();

/** Whether lengths are typed and shown in inches on this device. */
export const inches = () => localStorage.getItem("lengths") === "in";
export const setInches = (on: boolean) => {
  localStorage.setItem("lengths", on ? "in" : "cm");
  for (const l of listeners) l();
};
export const useInches = () =>
  useSyncExternalStore((l) => {
    listeners.add(l);
    return () => listeners.delete(l);
  }, inches);

/** A typed length in cm: "4 in" and "10 cm" say their unit, otherwise the device's choice holds. */
export function lengthFactor(text: string): { text: string; factor: number } {
  const m = /^(.*?)\s*(in|″|"|cm)$/.exec(text.trim());
  if (m?.[2]) return { text: m[1] ?? "", factor: m[2] === "cm" ? 1 : INCH };
  return { text, factor: inches() ? INCH : 1 };
}
export const toShown = (cm: number) => (inches() ? cm / INCH : cm);
