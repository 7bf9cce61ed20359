import { t } from "@lingui/core/macro";

/** What distances and weights can be read in. */
export const systems: { value: "metric" | "imperial"; label: string }[] = [
  { value: "metric", label: t`kilometres, kilograms` },
  { value: "imperial", label: t`miles, pounds` },
];
