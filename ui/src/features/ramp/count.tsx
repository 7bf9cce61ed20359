import { t } from "@lingui/core/macro";
import * as z from "zod/mini";
import { api, need, type Schema } from "../../api/client";
import { dayMonth } from "../../parts/dates";
import { Field } from "../../parts/field";
import { Chosen, useChecked } from "../../parts/form";
import { SaveState } from "../../parts/states";
import { useRampChange, type View } from "./hooks";

const rules = z.object({
  counts: z.pipe(
    z.string(),
    z.transform((text, ctx) => {
      const counts = readCounts(text);
      if (!counts)
        ctx.issues.push({
          code: "custom",
          message: t`Whole numbers with spaces between, like 41 42 41`,
          input: text,
        });
      return counts ?? [];
    }),
  ),
  windowSeconds: z.number(),
});
const empty: z.input<typeof rules> = { counts: "", windowSeconds: 15 };

/** Counts of both feet without a beat; three or more make a margin. */
export function CountAgain({ id, v }: { id: string; v: View }) {
  const f = useChecked(rules, empty);
  const add = useRampChange(id, (body: Schema["RecountInput"]) =>
    need(
      api.POST("/api/runners/{id}/recounts", {
        params: { path: { id }, header: { "Idempotency-Key": f.key } },
        body,
      }),
    ),
  );
  return (
    <form
      noValidate
      className="mt-4 flex flex-wrap items-end gap-3"
      onSubmit={f.form.handleSubmit((typed) =>
        add.mutate(
          { on: v.today, ...typed },
          {
            onError: f.refused,
            onSuccess: () => {
              f.sent();
              f.form.reset({ ...empty, windowSeconds: typed.windowSeconds });
            },
          },
        ),
      )}
    >
      <Field
        label={t`Count again, without the beat`}
        className="w-72"
        placeholder="41 42 41 41"
        inputMode="numeric"
        hint={t`steps of both feet, one number a window`}
        {...f.text("counts")}
      />
      <Chosen
        label={t`Window`}
        options={[15, 30, 60].map((n) => ({ value: n, label: `${n} s` }))}
        control={f.form.control}
        name="windowSeconds"
      />
      <button type="submit" className="btn" disabled={add.isPending}>
        {t`Keep the count`}
      </button>
      <SaveState error={f.bad("counts") ? null : add.error} saving={add.isPending} />
      {v.cadence.recounts.length > 0 && (
        <p className="w-full text-[14px] text-ink-2">
          {t`So far: ${v.cadence.recounts
            .map(
              (r) =>
                `${dayMonth(r.on)} ${Math.round(r.meanSpm * 10) / 10}${r.marginSpm !== undefined ? ` ± ${Math.round(r.marginSpm * 10) / 10}` : ""}`,
            )
            .join(", ")}`}
        </p>
      )}
    </form>
  );
}

/** "41 42, 41" is [41, 42, 41]; anything but whole numbers is null. */
export function readCounts(text: string): number[] | null {
  const parts = text.split(/[\s,;]+/).filter(Boolean);
  if (parts.length === 0 || parts.length > 20 || parts.some((p) => !/^\d{1,3}$/.test(p))) return null;
  return parts.map(Number);
}
