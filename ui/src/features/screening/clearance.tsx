import { t } from "@lingui/core/macro";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import * as z from "zod/mini";
import { api, need, type Schema } from "../../api/client";
import { plusDays } from "../../parts/dates";
import { Field } from "../../parts/field";
import { needed, useChecked } from "../../parts/form";
import { SaveState } from "../../parts/states";

/** How long a clearance usually holds. */
const usualDays = 42;

const rules = z.object({
  role: needed(t`Who cleared it, like physiotherapist`),
  allowed: needed(t`What may be done, in the clinician's words`),
  until: needed(t`The last day it holds`),
});

/** What a clinician allowed, by whom and until when. */
export function ClearanceForm({ s, flag, done }: { s: Schema["Screening"]; flag: string; done: () => void }) {
  const qc = useQueryClient();
  const f = useChecked(rules, { role: "", allowed: "", until: plusDays(s.on, usualDays) });
  const save = useMutation({
    mutationFn: (v: z.output<typeof rules>) =>
      need(
        api.POST("/api/runners/{id}/clearances", {
          params: { path: { id: s.runnerId } },
          body: { flag, ...v },
        }),
      ),
    onError: f.refused,
    onSuccess: () => {
      void qc.invalidateQueries();
      done();
    },
  });
  return (
    <form
      noValidate
      className="mt-2 grid gap-3 border-l-4 border-ink bg-paper p-4 md:grid-cols-[12rem_1fr_11rem_auto] md:items-end"
      onSubmit={f.form.handleSubmit((v) => save.mutate(v))}
    >
      <Field label={t`${flag}: cleared by a`} placeholder={t`physiotherapist`} {...f.text("role")} />
      <Field label={t`What is allowed`} {...f.text("allowed")} />
      <Field label={t`Until the end of`} type="date" {...f.text("until")} />
      <div className="flex gap-2">
        <button type="submit" className="btn btn-main" disabled={save.isPending}>
          {t`Note it`}
        </button>
        <button type="button" className="btn" onClick={done}>
          {t`Cancel`}
        </button>
      </div>
      <SaveState error={save.error} saving={false} />
    </form>
  );
}
