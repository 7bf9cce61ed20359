import { t } from "@lingui/core/macro";
import * as z from "zod/mini";
import type { Schema } from "../../api/client";
import { Field } from "../../parts/field";
import { Chosen, useChecked, WeekdaysOf } from "../../parts/form";
import { type Block, type Change, useChange } from "./change";
import { ChangeError, Outlook, useLook } from "./outlook";

type Prescription = Schema["PrescriptionView"];
type Dose = Schema["CatalogueDose"];

const parts: [keyof Dose, string][] = [
  ["sets", t`Sets`],
  ["reps", t`Reps`],
  ["holdSeconds", t`Hold, s`],
  ["minutes", t`Minutes`],
  ["contacts", t`Contacts`],
  ["paces", t`Paces`],
  ["metres", t`Metres`],
  ["bodyPercent", t`Load, % body`],
];

const number = z.pipe(
  z.string(),
  z.transform((v: string) => (v === "" ? undefined : Number(v))),
);

const rules = z.object({
  what: z.enum(["dose", "days", "extra-set", "leave-out"]),
  dose: z.record(z.string(), number),
  days: z.array(z.number()),
  side: z.enum(["", "left", "right"]),
  reason: z.string().check(z.trim()),
});
type Typed = z.input<typeof rules>;

const typed = (b: Block, p: Prescription): Typed => {
  const dose = p.own ?? p.dose;
  return {
    what: "dose",
    dose: Object.fromEntries(parts.map(([k]) => [k, String(dose[k] ?? "")])),
    days: plannedDays(b, p),
    side: p.extraSetSide ?? "",
    reason: "",
  };
};

/** The weekdays of the first two weeks a prescription stands on, 0 for Monday. */
function plannedDays(b: Block, p: Prescription): number[] {
  const days = b.weeks.slice(0, 2).flatMap((w) => w.days);
  const on = days.flatMap((d, i) =>
    d.sessions.some((s) => s.doses.some((x) => x.prescriptionId === p.id)) ? [i % 7] : [],
  );
  return [...new Set(on)].sort();
}

/** The edit of one prescription, with what it would do before it is saved. */
export function EditPrescription({ b, p, done }: { b: Block; p: Prescription; done: () => void }) {
  const f = useChecked(rules, typed(b, p));
  const { control } = f.form;
  const v = rules.parse(f.form.watch());
  const notch = p.pegs.find((x) => x.side === "left")?.notch ?? 1;
  const dose: Dose = { ...(p.own ?? p.dose), ...v.dose };
  const changes: Record<Typed["what"], Change> = {
    dose: { kind: "dose", ladder: p.ladder, notch, dose },
    days: { kind: "days", ladder: p.ladder, days: v.days },
    "extra-set": { kind: "extra-set", ladder: p.ladder, side: v.side },
    "leave-out": { kind: "leave-out", ladder: p.ladder, reason: "?" },
  };
  const { what, reason } = v;
  const change = changes[what];
  const save = useChange(b);
  const idle = save.isIdle || save.isError;
  const { look, error } = useLook(b, idle ? change : null);
  const harder = look?.consequences.some((c) => c.includes("a reason is needed")) ?? false;
  const needs = what === "leave-out" || (look?.broken.length ?? 0) > 0 || harder;
  const send = (c: Change) => save.mutate({ ...c, reason: needs ? reason : undefined }, { onSuccess: done });
  return (
    <form
      aria-label={t`Edit ${p.name}`}
      className="mt-2 grid gap-3 border-l-4 border-ink bg-paper p-4"
      noValidate
      onSubmit={f.form.handleSubmit(() => send(change))}
    >
      <Chosen
        label={t`Edit ${p.name}`}
        compact
        options={[
          { value: "dose", label: t`dose` },
          { value: "days", label: t`days` },
          { value: "extra-set", label: t`sides` },
          { value: "leave-out", label: t`leave out` },
        ]}
        control={control}
        name="what"
      />
      {what === "dose" && (
        <div className="flex flex-wrap items-end gap-3">
          {parts
            .filter(([k]) => k === "sets" || dose[k] !== undefined || (k === "bodyPercent" && dose.reps))
            .map(([k, name]) => (
              <Field key={k} label={name} className="w-24" type="number" min={0} {...f.text(`dose.${k}`)} />
            ))}
          <p className="pb-2 text-[14px] text-ink-2">{t`holds at notch ${notch}, until the peg moves`}</p>
          {p.own && (
            <button
              type="button"
              className="btn-quiet pb-2"
              onClick={() => send({ kind: "dose", ladder: p.ladder, notch })}
            >
              {t`Back to the notch's dose`}
            </button>
          )}
        </div>
      )}
      {what === "days" && <WeekdaysOf label={t`Stands on`} control={control} name="days" />}
      {what === "extra-set" && (
        <Chosen
          label={t`One set more`}
          options={[
            { value: "", label: t`on neither` },
            { value: "left", label: t`left` },
            { value: "right", label: t`right` },
          ]}
          control={control}
          name="side"
        />
      )}
      <Outlook look={look} error={error} />
      {needs && (
        <Field
          label={what === "leave-out" ? t`Why it is left out` : t`Do it anyway. Reason:`}
          maxLength={300}
          {...f.text("reason")}
        />
      )}
      <div className="flex gap-3">
        <button
          type="submit"
          className="btn btn-main"
          disabled={save.isPending || !look || (needs && !reason)}
        >
          {what === "leave-out" ? t`Leave it out` : needs ? t`Insist` : t`Save`}
        </button>
        <button type="button" className="btn" onClick={done}>
          {t`Cancel`}
        </button>
      </div>
      <ChangeError error={save.error} saving={save.isPending} />
    </form>
  );
}
