import { t } from "@lingui/core/macro";
import { useMutation } from "@tanstack/react-query";
import * as z from "zod/mini";
import { api, need, type Schema } from "../../api/client";
import { Field } from "../../parts/field";
import { needed, useChecked } from "../../parts/form";
import { SaveState } from "../../parts/states";

const rules = z.object({ reason: needed(t`Say how it came about`) });

/** A severe reading was changed: its flag asks once more whether it was so. */
export function Slip({
  runner,
  on,
  s,
  done,
}: {
  runner: string;
  on: string;
  s: Schema["SlipView"];
  done: () => void;
}) {
  const f = useChecked(rules, { reason: "" });
  const put = useMutation({
    mutationFn: ({ reason }: { reason: string }) =>
      need(
        api.POST("/api/runners/{id}/days/{on}/slip", {
          params: { path: { id: runner, on } },
          body: { key: s.key, reason },
        }),
      ),
    onError: f.refused,
    onSuccess: done,
  });
  return (
    <form
      aria-label={t`A changed reading`}
      className="mb-4 grid gap-2 border-l-4 border-clay bg-paper p-4"
      noValidate
      onSubmit={f.form.handleSubmit((v) => put.mutate(v))}
    >
      <p className="font-semibold">{s.text}</p>
      <p className="text-[14px] text-ink-2">
        {t`If it was, leave this: the flag stands until a clinician clears it. If it was typed wrong, say how, and the flag ends today. Both readings stay in the journal.`}
      </p>
      <div className="flex flex-wrap items-end gap-3">
        <Field
          label={t`How it came about`}
          className="min-w-72 flex-1"
          maxLength={500}
          {...f.text("reason")}
        />
        <button type="submit" className="btn" disabled={put.isPending}>
          {t`No, it was typed wrong`}
        </button>
      </div>
      <SaveState error={put.error} saving={put.isPending} />
    </form>
  );
}
