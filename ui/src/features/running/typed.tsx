import { t } from "@lingui/core/macro";
import { useMutation } from "@tanstack/react-query";
import * as z from "zod/mini";
import type { Schema } from "../../api/client";
import { queued } from "../../api/queue";
import { Field, Say } from "../../parts/field";
import { neededNumber, typedNumber, useChecked } from "../../parts/form";
import { Title } from "../../parts/marks";
import { unit } from "../../parts/measures";
import { SaveState } from "../../parts/states";
import { useTouch } from "./hooks";

const rules = z.object({
  on: z.string(),
  km: neededNumber("km", "8.5"),
  minutes: neededNumber("minutes", "48"),
  effort: typedNumber("", "4"),
  pain: typedNumber("", "2"),
}) satisfies z.ZodMiniType<Schema["RunInput"]>;

const fields = () =>
  [
    ["km", t`Distance, ${unit("km")}`, "decimal"],
    ["minutes", t`Minutes`, "decimal"],
    ["effort", t`Effort, 0–10`, "numeric"],
    ["pain", t`Worst pain, 0–10`, "numeric"],
  ] as const;

/** A run without a file. */
export function TypeRun({ id, today }: { id: string; today: string }) {
  const f = useChecked(rules, { on: today, km: "", minutes: "", effort: "", pain: "" }, `run:${id}`);
  const touch = useTouch(id);
  const add = useMutation({
    ...queued.run,
    onError: f.refused,
    onSuccess: (run) => {
      f.form.reset({ on: run.on, km: "", minutes: "", effort: "", pain: "" });
      f.sent();
      touch();
    },
  });
  const [km, minutes] = f.form.watch(["km", "minutes"]);
  return (
    <section aria-label={t`Add a run`}>
      <Title>{t`Add a run`}</Title>
      <form
        noValidate
        className="grid grid-cols-2 gap-3"
        onSubmit={f.form.handleSubmit((v) =>
          add.mutate({ runner: id, key: f.key, body: { ...v, on: v.on || today } }),
        )}
      >
        <Field label={t`Day`} type="date" className="col-span-2" {...f.text("on")} />
        {fields().map(([name, label, mode]) => (
          <Field key={name} label={label} inputMode={mode} {...f.text(name)} />
        ))}
        <button type="submit" className="btn col-span-2" disabled={add.isPending || !km || !minutes}>
          {t`Add the run`}
        </button>
        <SaveState error={add.error} saving={add.isPending} />
        <Say id="run-hint" hint={t`What is left open counts as not known.`} />
      </form>
    </section>
  );
}
