import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useController } from "react-hook-form";
import { Link } from "react-router";
import * as z from "zod/mini";
import { api, need, type Schema } from "../../api/client";
import { Field } from "../../parts/field";
import { Chosen, typedNumber, useChecked } from "../../parts/form";
import { shown, unit } from "../../parts/measures";
import { SaveState } from "../../parts/states";
import { Tick } from "../../parts/tick";
import { useRampChange, type View } from "./hooks";

type Terms = Schema["TransitionCadenceTerms"];

const rules = z.object({
  terms: z.object({
    school: z.enum(["own-baseline", "fixed-range"]),
    further: z.boolean(),
    stepSpm: z.number(),
    baselineSpm: typedNumber(t`steps of both feet a minute`, "162"),
    speedKmh: typedNumber("km/h", "10.5"),
  }),
});
const typed = (it: Terms): z.input<typeof rules> => ({
  terms: {
    school: it.school,
    further: it.further ?? false,
    stepSpm: it.stepSpm ?? 5,
    baselineSpm: it.baselineSpm ? String(it.baselineSpm) : "",
    speedKmh: it.speedKmh ? shown("km/h", it.speedKmh) : "",
  },
});

/** The target, the steps and the count they begin from. */
export function StepsForm({ id, c }: { id: string; c: View["cadence"] }) {
  const f = useChecked(rules, typed(c.terms));
  const { control } = f.form;
  const further = useController({ control, name: "terms.further" }).field;
  const put = useRampChange(id, (body: { terms: Terms; ended?: boolean }) =>
    need(
      api.PUT("/api/runners/{id}/cadence-ramp", { params: { path: { id }, query: { rev: c.rev } }, body }),
    ),
  );
  const send = (ended: boolean) =>
    f.form.handleSubmit(({ terms }) =>
      put.mutate(
        {
          terms: {
            ...c.terms,
            ...terms,
            baselineSpm: terms.baselineSpm ?? 0,
            speedKmh: terms.speedKmh ?? 0,
            further: terms.further || undefined,
          },
          ended: ended || undefined,
        },
        { onError: f.refused },
      ),
    );
  const shut = !!c.closed && !c.begun;
  return (
    <form noValidate aria-label={t`The steps`} className="mt-4 grid gap-3" onSubmit={send(false)}>
      <Chosen
        label={t`Target`}
        compact
        options={[
          { value: "own-baseline", label: t`own, plus 5 %` },
          { value: "fixed-range", label: t`${c.range[0] ?? ""} at least` },
        ]}
        control={control}
        name="terms.school"
      />
      {f.form.watch("terms.school") === "own-baseline" && (
        <Tick label={t`On to 10 % after that`} on={further.value} onChange={further.onChange} />
      )}
      <Chosen
        label={t`Steps of`}
        compact
        options={[4, 5, 6].map((n) => ({ value: n, label: `${n}` }))}
        control={control}
        name="terms.stepSpm"
      />
      <div className="grid grid-cols-2 gap-3">
        <Field
          label={t`Cadence without the metronome`}
          inputMode="decimal"
          hint={t`both feet a minute`}
          {...f.text("terms.baselineSpm")}
        />
        <Field
          label={t`Speed, ${unit("km/h")}`}
          inputMode="decimal"
          hint={t`kept the same`}
          {...f.text("terms.speedKmh")}
        />
      </div>
      {shut && (
        <p className="text-clay">
          <Trans>
            ▲ First: {c.closed}.{" "}
            <Link className="underline" to={`/runners/${id}`}>
              Screen again
            </Link>
          </Trans>
        </p>
      )}
      <div className="flex flex-wrap gap-3">
        <button type="submit" className="btn btn-main" disabled={put.isPending || shut}>
          {c.begun ? t`Change the steps` : t`Begin the steps`}
        </button>
        {c.begun && (
          <button type="button" className="btn-quiet" onClick={send(true)}>
            {t`End it`}
          </button>
        )}
      </div>
      <SaveState error={put.error} saving={put.isPending} />
    </form>
  );
}
