import { t } from "@lingui/core/macro";
import * as z from "zod/mini";
import type { Schema } from "../../api/client";
import type { Routine } from "./hooks";

export type OwnRoutine = Schema["OwnRoutine"];

const optional = z.pipe(
  z.string(),
  z.transform((v: string) => v.trim() || undefined),
);
export const rules = z.object({
  id: z.optional(z.string()),
  from: z.optional(z.string()),
  rev: z.number(),
  name: z.string(),
  for: z.string(),
  suits: z.string(),
  when: z.enum(["any", "before-run", "run", "morning", "evening", "barefoot"]),
  min: z.pipe(z.string(), z.transform(Number)),
  max: z.pipe(z.string(), z.transform(Number)),
  late: z.string(),
  compare: z.enum(["", "walk", "steps", "cm"]),
  compared: z.string(),
  parts: z.array(
    z.object({
      exercise: z.string(),
      ladder: optional,
      dose: z.string(),
      most: optional,
      more: optional,
      key: z.boolean(),
      longOnly: z.boolean(),
    }),
  ),
}) satisfies z.ZodMiniType<OwnRoutine>;
export type Typed = z.input<typeof rules>;

export const emptyPart = {
  exercise: "",
  ladder: "",
  dose: "1 x 30 s",
  most: "",
  more: "",
  key: false,
  longOnly: false,
};
export const blank: Typed = {
  rev: 0,
  name: "",
  for: "",
  suits: "",
  when: "any",
  min: "2",
  max: "3",
  late: "",
  compare: "",
  compared: "",
  parts: [{ ...emptyPart, key: true }],
};

export const typed = (r: Routine): Typed => ({
  id: r.id,
  rev: r.rev,
  name: r.name,
  for: r.for,
  suits: r.suits,
  when: r.when,
  min: `${r.min}`,
  max: `${r.max}`,
  late: r.late ?? "",
  compare: r.compare ?? "",
  compared: r.compared ?? "",
  parts: r.parts.map((p) => ({
    exercise: p.exercise,
    ladder: p.ladder ?? "",
    dose: p.typed,
    most: p.most ?? "",
    more: p.more ?? "",
    key: !!p.key,
    longOnly: !!p.longOnly,
  })),
});

/** A copy starts as an own routine of another name. */
export const copied = (r: Routine): Typed => ({
  ...typed(r),
  id: undefined,
  from: r.id,
  rev: 0,
  name: t`${r.name}, ours`,
});
