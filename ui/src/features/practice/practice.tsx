import { t } from "@lingui/core/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import * as z from "zod/mini";
import { api, need, type Schema } from "../../api/client";
import { useMe } from "../../api/hooks";
import { Area, Field } from "../../parts/field";
import { Chosen, neededNumber, Ticking, useChecked } from "../../parts/form";
import { shown, unit } from "../../parts/measures";
import { Failed, Loading, SaveState } from "../../parts/states";
import { usePageTitle } from "../../parts/title";
import { PracticeHead } from "./head";
import { systems } from "./systems";

type Practice = Schema["Practice"];

/** What every sheet says of the practice: who to reach, and whom to call first. */
export function PracticeView() {
  usePageTitle(t`Practice`);
  const p = useQuery({ queryKey: ["practice"], queryFn: () => need(api.GET("/api/practice")) });
  if (p.isPending) return <Loading what={t`the practice`} />;
  if (p.error) return <Failed error={p.error} retry={() => void p.refetch()} />;
  return (
    <>
      <PracticeHead />
      <Form start={p.data} />
    </>
  );
}

const rules = z.object({
  name: z.string(),
  contact: z.string(),
  emergencyNumber: z.string(),
  emergencyText: z.string(),
  zone: z.string(),
  language: z.enum(["en", "de"]),
  units: z.enum(["metric", "imperial"]),
  standIns: z.boolean(),
  rev: z.number(),
  plateKg: neededNumber("kg", "1.25"),
  keepYears: neededNumber(t`years`, "10"),
  idleMinutes: neededNumber(t`minutes`, "60"),
  retestWeeks: neededNumber(t`weeks`, "2"),
}) satisfies z.ZodMiniType<Practice>;

const typed = (p: Practice): z.input<typeof rules> => ({
  ...p,
  standIns: p.standIns ?? false,
  plateKg: shown("kg", p.plateKg),
  keepYears: String(p.keepYears),
  idleMinutes: String(p.idleMinutes),
  retestWeeks: String(p.retestWeeks),
});

function Form({ start }: { start: Practice }) {
  const me = useMe();
  const qc = useQueryClient();
  const f = useChecked(rules, typed(start));
  const save = useMutation({
    mutationFn: (body: Practice) => need(api.PUT("/api/practice", { body })),
    onError: f.refused,
    onSuccess: (next) => {
      if (next.units !== start.units) return location.reload(); // everything is written anew
      f.form.reset(typed(next));
      qc.setQueryData(["practice"], next);
      void qc.invalidateQueries({ queryKey: ["sheet"] });
      void qc.invalidateQueries({ queryKey: ["stand-ins"] });
    },
  });
  const owner = me.data?.role === "owner";
  return (
    <form noValidate className="max-w-2xl" onSubmit={f.form.handleSubmit((v) => save.mutate(v))}>
      <h1>{t`Practice`}</h1>
      <p className="mt-1 mb-4 text-ink-2">
        {t`This stands on every sheet and beside every alarm.`}
        {!owner && t` Only the owner changes it.`}
      </p>
      <fieldset disabled={!owner} className="grid gap-4">
        <Field label={t`Name`} required maxLength={120} {...f.text("name")} />
        <Field
          label={t`How runners reach the coach`}
          hint={t`for everything that is not urgent`}
          maxLength={300}
          {...f.text("contact")}
        />
        <Field
          label={t`Emergency number`}
          hint={t`whom to call first; never the coach's own number`}
          maxLength={40}
          {...f.text("emergencyNumber")}
        />
        <Area
          label={t`What stands beside it`}
          hint={t`The nearest hospital, the way there, the ferry at night`}
          rows={3}
          maxLength={600}
          {...f.text("emergencyText")}
        />
        <Field label={t`Time zone`} hint={t`like Europe/Lisbon`} maxLength={60} {...f.text("zone")} />
        <Chosen
          label={t`Language of runners' phones and sheets`}
          options={[
            { value: "en", label: "English" },
            { value: "de", label: "Deutsch" },
          ]}
          control={f.form.control}
          name="language"
        />
        <p className="-mt-2 text-[14px] text-ink-2">
          {t`A runner's own page can say another. In German are the phone, the safety questions, the alarms and the rules of pain; exercises and reasons are in English so far.`}
        </p>
        <Chosen label={t`Distances and weights`} options={systems} control={f.form.control} name="units" />
        <p className="-mt-2 text-[14px] text-ink-2">
          {t`For everybody’s screens and runners’ phones; who works here may choose otherwise under My page. What is measured on a body stays in the units of its test.`}
        </p>
        <Field
          label={t`Smallest step of weight, ${unit("kg")}`}
          hint={t`loads on sheets are rounded down to it`}
          inputMode="decimal"
          {...f.text("plateKg")}
        />
        <Field
          label={t`Test again what is worked on, every so many weeks`}
          hint={t`1 to 3, in plans made from now on; everything is tested again every six weeks`}
          inputMode="numeric"
          {...f.text("retestWeeks")}
        />
        <Field
          label={t`Records of runners off the bench, years`}
          hint={t`After so many years everything about them is deleted; they are listed a month before. 0 keeps them for ever. Local rules on keeping records come first.`}
          inputMode="numeric"
          {...f.text("keepYears")}
        />
        <Field
          label={t`Sign out a browser that was not used for, minutes`}
          hint={t`15 to 720, for everybody who works here; runners’ phones stay signed in`}
          inputMode="numeric"
          {...f.text("idleMinutes")}
        />
        <div>
          <Ticking label={t`Offer stand-ins for camera and watch`} control={f.form.control} name="standIns" />
          <p className="text-[14px] text-ink-2">
            {t`Rendered clips and made-up runs where clips and runs are brought in, for all coaches: to try the program without devices.`}
          </p>
        </div>
        <div className="flex items-center gap-4">
          <button type="submit" className="btn btn-main" disabled={save.isPending}>
            {t`Save`}
          </button>
          <SaveState error={save.error} saving={save.isPending} />
          {save.isSuccess && <span role="status">{t`Saved.`}</span>}
        </div>
      </fieldset>
    </form>
  );
}
