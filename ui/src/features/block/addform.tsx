import { t } from "@lingui/core/macro";
import * as z from "zod/mini";
import { Field } from "../../parts/field";
import { Listed, useChecked, WeekdaysOf } from "../../parts/form";
import { type Block, type Change, useChange } from "./change";
import { useWishes } from "./hooks";
import { ChangeError, Outlook, useLook } from "./outlook";

const rules = z.object({
  ladder: z.string().check(z.minLength(1, t`Choose a ladder`)),
  days: z.array(z.number()).check(z.minLength(1, t`Tick a day it stands on`)),
  reason: z.string().check(z.trim()),
});

/** A ladder from the shelf, the days it stands on, and what it would do. */
export function AddForm({ b, done }: { b: Block; done: () => void }) {
  const w = useWishes(b.runnerId);
  const f = useChecked(rules, { ladder: "", days: b.main.map((m) => m.day), reason: "" });
  const { ladder, days, reason } = f.form.watch();
  const change: Change | null = ladder && days.length ? { kind: "add", ladder, days } : null;
  const save = useChange(b);
  const { look, error } = useLook(b, save.isIdle || save.isError ? change : null);
  const needs = (look?.broken.length ?? 0) > 0;
  const there = new Set(b.prescriptions.filter((p) => !p.leftOut).map((p) => p.ladder));
  return (
    <form
      noValidate
      aria-label={t`Add a ladder`}
      className="mt-3 grid gap-3 border-l-4 border-ink bg-paper p-4"
      onSubmit={f.form.handleSubmit((v) =>
        save.mutate(
          { kind: "add", ladder: v.ladder, days: v.days, reason: needs ? v.reason : undefined },
          { onSuccess: done },
        ),
      )}
    >
      <Listed
        label={t`Ladder`}
        options={[
          ["", "choose"],
          ...(w.data?.ladders ?? [])
            .filter((l) => !there.has(l.id))
            .map((l): [string, string] => [l.id, l.name]),
        ]}
        control={f.form.control}
        name="ladder"
      />
      <WeekdaysOf label={t`On`} control={f.form.control} name="days" />
      {change && <Outlook look={look} error={error} />}
      {needs && <Field label={t`Do it anyway. Reason:`} {...f.text("reason")} />}
      <div className="flex gap-3">
        <button
          type="submit"
          className="btn btn-main"
          disabled={!look || save.isPending || (needs && !reason.trim())}
        >
          {needs ? t`Insist` : t`Add it`}
        </button>
        <button type="button" className="btn" onClick={done}>
          {t`Cancel`}
        </button>
      </div>
      <ChangeError error={save.error} saving={save.isPending} />
    </form>
  );
}
