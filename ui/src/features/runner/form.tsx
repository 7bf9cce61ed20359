import { t } from "@lingui/core/macro";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import * as z from "zod/mini";
import { api, need, Problem, type Schema } from "../../api/client";
import { useRunner } from "../../api/hooks";
import { dayMonth } from "../../parts/dates";
import { Area, Field, painScale } from "../../parts/field";
import { Chosen, chosen, typedNumber, useChecked } from "../../parts/form";
import { shown, unit } from "../../parts/measures";
import { RunnerHead } from "../../parts/runnerhead";
import { Failed, Loading, SaveState } from "../../parts/states";
import { usePageTitle } from "../../parts/title";
import { Records } from "./records";
import { differences, Stale } from "./stale";

type Runner = Schema["Runner"];

const yesNo = (v: boolean | undefined) => (v === undefined ? "" : v ? "yes" : "no");
const fromYesNo = z.pipe(
  z.string(),
  z.transform((v) => (v === "" ? undefined : v === "yes")),
);

const rules = z.object({
  name: z.string(),
  birth: z.pipe(
    z.string(),
    z.transform((v: string) => v || undefined),
  ),
  sex: chosen("female", "male", "other"),
  massKg: typedNumber("kg", "63.5"),
  weeklyKm: typedNumber("km", "32"),
  goal: z.string(),
  note: z.string(),
  firstStructuredWork: fromYesNo,
  recentVolumeRise: fromYesNo,
  intakeFirstStep: z.optional(z.number()),
  language: chosen("en", "de"),
}) satisfies z.ZodMiniType<Schema["RunnerInput"]>;
export type Typed = z.input<typeof rules>;

export const typed = (r?: Runner): Typed => ({
  name: r?.name ?? "",
  birth: r?.birth ?? "",
  sex: r?.sex ?? "",
  massKg: shown("kg", r?.massKg, 1),
  weeklyKm: shown("km", r?.weeklyKm, 1),
  goal: r?.goal ?? "",
  note: r?.note ?? "",
  firstStructuredWork: yesNo(r?.firstStructuredWork),
  recentVolumeRise: yesNo(r?.recentVolumeRise),
  intakeFirstStep: r?.intakeFirstStep,
  language: r?.language ?? "",
});

const useForm = (start: Typed, draft: string) => useChecked(rules, start, draft);

function Fields({ f }: { f: ReturnType<typeof useForm> }) {
  const { control } = f.form;
  const known = [
    { value: "yes", label: t`yes` },
    { value: "no", label: t`no` },
  ];
  return (
    <div className="grid gap-x-8 gap-y-5 md:grid-cols-2">
      <Field
        label={t`Name`}
        autoComplete="off"
        maxLength={120}
        {...f.text("name")}
        className="md:col-span-2"
      />
      <Field
        label={t`Date of birth`}
        type="date"
        hint={t`Norms and cautions go by age`}
        {...f.text("birth")}
      />
      <Chosen
        label={t`Sex, for norms only`}
        options={[
          { value: "female", label: t`female` },
          { value: "male", label: t`male` },
          { value: "other", label: t`other` },
        ]}
        control={control}
        name="sex"
      />
      <Field label={t`Body mass, ${unit("kg")}`} inputMode="decimal" {...f.text("massKg")} />
      <Field
        label={t`Running, ${unit("km")} a week`}
        inputMode="decimal"
        hint={t`Mean of the last four weeks`}
        {...f.text("weeklyKm")}
      />
      <Chosen
        label={t`First structured strength work?`}
        options={known}
        control={control}
        name="firstStructuredWork"
      />
      <Chosen
        label={t`Running volume up by more than 10 % in the last two weeks?`}
        options={known}
        control={control}
        name="recentVolumeRise"
      />
      <div className="md:col-span-2">
        <Chosen
          label={t`Pain on the first steps of the morning, usually (0 none, 10 worst)`}
          options={painScale}
          control={control}
          name="intakeFirstStep"
        />
      </div>
      <Field label={t`Goal`} maxLength={300} {...f.text("goal")} className="md:col-span-2" />
      <Area label={t`Note`} rows={3} maxLength={4000} {...f.text("note")} className="md:col-span-2" />
      <div className="md:col-span-2">
        <Chosen
          label={t`Language of the phone and the sheet`}
          options={[
            { value: "", label: t`as the practice` },
            { value: "en", label: "English" },
            { value: "de", label: "Deutsch" },
          ]}
          control={control}
          name="language"
        />
      </div>
      <p className="text-[14px] text-ink-2 md:col-span-2">{t`Unanswered counts as the cautious answer.`}</p>
    </div>
  );
}

export function NewRunner() {
  usePageTitle(t`New runner`);
  const f = useForm(typed(), "runner:new");
  const go = useNavigate();
  const qc = useQueryClient();
  const save = useMutation({
    mutationFn: (body: Schema["RunnerInput"]) =>
      need(api.POST("/api/runners", { body, params: { header: { "Idempotency-Key": f.key } } })),
    onError: f.refused,
    onSuccess: (r) => {
      f.done();
      void qc.invalidateQueries({ queryKey: ["bench"] });
      go(`/runners/${r.id}`);
    },
  });
  return (
    <form noValidate className="max-w-3xl" onSubmit={f.form.handleSubmit((body) => save.mutate(body))}>
      <h1 className="mb-6">{t`New runner`}</h1>
      <Fields f={f} />
      <div className="mt-6 flex flex-wrap items-center gap-4">
        <button type="submit" className="btn btn-main" disabled={save.isPending}>
          {t`Add the runner`}
        </button>
        <Link className="btn" to="/" onClick={f.done}>
          {t`Cancel`}
        </Link>
        <SaveState error={save.error} saving={save.isPending} />
      </div>
    </form>
  );
}

export function EditRunner() {
  const { id = "" } = useParams();
  const r = useRunner(id);
  if (r.isPending) return <Loading what={t`the runner`} />;
  if (r.error) return <Failed error={r.error} retry={() => void r.refetch()} />;
  return (
    <>
      <RunnerHead id={id} name={r.data.name} here="profile" />
      {r.data.importedAt && (
        <p className="mb-4 text-[14px] text-ink-2">
          {t`Imported on ${dayMonth(r.data.importedAt.slice(0, 10))}, from ${r.data.importedFrom ?? ""} as the file says. Clearances and waivers from there don’t count here; they stand in the journal.`}
        </p>
      )}
      <div className="grid gap-x-10 gap-y-8 lg:grid-cols-[minmax(0,1fr)_18rem]">
        <Edit key={id} runner={r.data} />
        <Records id={id} />
      </div>
    </>
  );
}

function Edit({ runner }: { runner: Runner }) {
  const [base, setBase] = useState(runner);
  const f = useForm(typed(runner), `runner:${runner.id}`);
  const go = useNavigate();
  const qc = useQueryClient();
  const save = useMutation({
    mutationFn: (body: Schema["RunnerInput"]) =>
      need(
        api.PUT("/api/runners/{id}", {
          body,
          params: { path: { id: runner.id }, header: { "If-Match": String(base.version) } },
        }),
      ),
    onError: f.refused,
    onSuccess: (saved) => {
      f.done();
      qc.setQueryData(["runner", runner.id], saved);
      void qc.invalidateQueries({ queryKey: ["bench"] });
      go(`/runners/${runner.id}`);
    },
  });
  const stale =
    save.error instanceof Problem && save.error.status === 412 ? (save.error.value as Runner) : undefined;
  return (
    <form noValidate className="max-w-3xl" onSubmit={f.form.handleSubmit((body) => save.mutate(body))}>
      {stale && (
        <Stale
          theirs={differences(typed(stale), f.form.getValues())}
          take={(all) => {
            setBase(stale);
            if (all) f.form.reset(typed(stale));
            save.reset();
          }}
        />
      )}
      <Fields f={f} />
      <div className="mt-6 flex flex-wrap items-center gap-4">
        <button type="submit" className="btn btn-main" disabled={save.isPending || !!stale}>
          {t`Save`}
        </button>
        <Link className="btn" to={`/runners/${runner.id}`} onClick={f.done}>
          {t`Cancel`}
        </Link>
        {!stale && <SaveState error={save.error} saving={save.isPending} />}
      </div>
    </form>
  );
}
