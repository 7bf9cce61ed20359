import { t } from "@lingui/core/macro";
import * as z from "zod/mini";
import { OwnExercise as limits } from "../../api/limits";
import type { OwnExercise } from "./exercise";
import type { Shelf } from "./hooks";

const lines = (most: number) =>
  z.array(z.string()).check((ctx) => {
    if (ctx.value.length > most)
      ctx.issues.push({
        code: "custom",
        message: t`${ctx.value.length} lines; expected at most ${most}`,
        input: ctx.value,
      });
  });
export const rules = z.object({
  id: z.optional(z.string()),
  rev: z.number(),
  name: z.string(),
  short: z.string(),
  purpose: z.string(),
  position: z.string(),
  sides: z.enum(["each", "together"]),
  setUp: z.string(),
  cues: lines(limits.cues.maxItems),
  mistakes: lines(limits.mistakes.maxItems),
  equipment: z.array(z.string()),
  timing: z.enum(["any", "pre-run", "not-tired", "evening", "gap48"]),
  cautions: lines(limits.cautions.maxItems),
  part: z.string(),
  traits: z.array(z.string()),
  start: z.string(),
  end: z.string(),
  turned: z.tuple([z.record(z.string(), z.number()), z.record(z.string(), z.number())]),
}) satisfies z.ZodMiniType<OwnExercise>;
export type Typed = z.input<typeof rules>;

export const blank: Typed = {
  rev: 0,
  name: "",
  short: "",
  purpose: "strength",
  position: "standing",
  sides: "each",
  setUp: "",
  cues: [],
  mistakes: [],
  equipment: [],
  timing: "any",
  cautions: [],
  part: "",
  traits: [],
  start: "",
  end: "",
  turned: [{}, {}],
};

export const typed = (e: Shelf["exercises"][number]): Typed => ({
  id: e.id,
  rev: e.rev,
  name: e.name,
  short: e.short,
  purpose: e.purpose,
  position: e.position,
  sides: e.sides,
  setUp: e.setUp,
  cues: e.cues,
  mistakes: e.mistakes,
  equipment: e.equipment,
  timing: e.timing,
  cautions: e.cautions ?? [],
  part: e.part ?? "",
  traits: e.traits ?? [],
  start: e.figure?.[0] ?? "",
  end: e.figure?.[1] ?? "",
  turned: [e.turned?.[0] ?? {}, e.turned?.[1] ?? {}],
});
