import { z } from "zod";
import { OwnExercise as limits } from "../../api/limits";
import type { OwnExercise } from "./exercise";
import type { Shelf } from "./hooks";

const lines = (most: number) =>
  z.array(z.string()).superRefine((list, ctx) => {
    if (list.length > most)
      ctx.addIssue({ code: "custom", message: `${list.length} lines; expected at most ${most}` });
  });
export const rules = z.object({
  id: z.string().optional(),
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
}) satisfies z.ZodType<OwnExercise>;
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
});
