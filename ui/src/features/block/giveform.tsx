import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";
import * as z from "zod/mini";
import { Field } from "../../parts/field";
import { Listed, useChecked, WeekdaysOf } from "../../parts/form";
import { Picture } from "../../parts/picture";
import { Tick } from "../../parts/tick";
import { useShelf } from "../shelf/hooks";
import { type Block, type Change, useChange } from "./change";
import { ChangeError, Outlook, useLook } from "./outlook";

const rules = z.object({
  routine: z.string().check(z.minLength(1, t`Choose a routine`)),
  days: z.array(z.number()).check(z.minLength(1, t`Tick a day it stands on`)),
  reason: z.string().check(z.trim()),
});

/** A routine from the shelf, fitted to this runner before it is given. */
export function GiveForm({ b, first, done }: { b: Block; first: string; done: () => void }) {
  const shelf = useShelf();
  const f = useChecked(rules, { routine: first, days: [], reason: "" });
  const [long, setLong] = useState(false);
  const { routine, days, reason } = f.form.watch();
  const r = shelf.data?.routines.find((x) => x.id === routine);
  const save = useChange(b);
  // The parts are shown as soon as one is chosen; the week is looked at with the days.
  const change: Change | null = routine
    ? { kind: "routine", routine, long, days: days.length ? days : [0] }
    : null;
  const { look, error } = useLook(b, save.isIdle || save.isError ? change : null);
  const needs = days.length > 0 && (look?.broken.length ?? 0) > 0;
  return (
    <form
      noValidate
      aria-label={t`Give a routine`}
      className="mt-3 grid gap-3 border-l-4 border-ink bg-paper p-4"
      onSubmit={f.form.handleSubmit((v) =>
        save.mutate(
          { kind: "routine", routine: v.routine, long, days: v.days, reason: needs ? v.reason : undefined },
          { onSuccess: done },
        ),
      )}
    >
      <Listed
        label={t`Routine`}
        options={[
          ["", "choose"],
          ...(shelf.data?.routines ?? [])
            .filter((x) => !x.retired)
            .map((x): [string, string] => [
              x.id,
              t`${x.name}, ${x.short === x.long ? x.short : `${x.short}–${x.long}`} min`,
            ]),
        ]}
        control={f.form.control}
        name="routine"
      />
      {r && (
        <p>
          {r.for} <span className="text-ink-2">{r.suits}</span>
        </p>
      )}
      {r && r.long > r.short && (
        <Tick
          className="flex min-h-8 items-center gap-2"
          label={t`the long version, about ${r.long} min`}
          on={long}
          onChange={setLong}
        />
      )}
      <WeekdaysOf
        label={r ? t`On, ${r.perWeek}${r.whenWords ? `, ${r.whenWords}` : ""}` : t`On`}
        control={f.form.control}
        name="days"
      />
      {look && look.parts.length > 0 && (
        <div>
          <p className="mb-1 font-semibold">{t`For ${b.runnerName} today, about ${look.minutes ?? ""} min`}</p>
          <ol aria-label={t`Parts for this runner`} className="grid gap-x-6 md:grid-cols-2">
            {look.parts.map((p, i) => (
              <li
                // biome-ignore lint/suspicious/noArrayIndexKey: a part may stand twice; its place is what it is
                key={i}
                className={`flex gap-3 border-t border-rule py-1.5 text-[14px] ${p.dropped.length ? "text-ink-2" : ""}`}
              >
                <Picture picture={p.picture} size={36} />
                <span className="min-w-0">
                  <b className={p.dropped.length ? "font-normal line-through" : ""}>
                    {i + 1}. {p.name}
                  </b>{" "}
                  {p.words}
                  {p.side && t`, ${p.side} only`}
                  {p.own && <span className="block">{t`the runner's own notch of ${p.own}`}</span>}
                  {p.lowered && <span className="block">{p.lowered}</span>}
                  {p.swaps.map((x) => (
                    <span key={x} className="block">
                      {x}
                    </span>
                  ))}
                  {p.limits.length > 0 && (
                    <span className="block font-semibold">{t`only ${p.limits.join("; ")}`}</span>
                  )}
                  {p.dropped.length > 0 && (
                    <span className="block">
                      <Trans>
                        <span aria-hidden="true">▲ </span>drops out: {p.dropped.join("; ")}
                      </Trans>
                    </span>
                  )}
                </span>
              </li>
            ))}
          </ol>
        </div>
      )}
      {routine && (days.length > 0 || error) && <Outlook look={look} error={error} />}
      {needs && <Field label={t`Do it anyway. Reason:`} {...f.text("reason")} />}
      <div className="flex gap-3">
        <button
          type="submit"
          className="btn btn-main"
          disabled={!look || days.length === 0 || save.isPending || (needs && !reason.trim())}
        >
          {needs ? t`Insist` : t`Give it`}
        </button>
        <button type="button" className="btn" onClick={done}>
          {t`Cancel`}
        </button>
      </div>
      <ChangeError error={save.error} saving={save.isPending} />
    </form>
  );
}
