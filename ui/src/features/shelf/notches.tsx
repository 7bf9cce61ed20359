import { t } from "@lingui/core/macro";
import { type UseFieldArrayReturn, useFieldArray } from "react-hook-form";
import { OwnNotch as notchLimits } from "../../api/limits";
import { Field, Say } from "../../parts/field";
import { Title } from "../../parts/marks";
import { tickBox } from "../../parts/tick";
import { gateName, type Shelf } from "./hooks";
import { emptyNotch, type Form, type Typed } from "./ladderform";

export function Notches({ s, f }: { s: Shelf; f: Form }) {
  const list = useFieldArray({ control: f.form.control, name: "notches" });
  const gates = [...new Set(s.ladders.flatMap((l) => l.gates))];
  return (
    <div className="mt-5">
      <Title aside={t`3 x 12 · 3 x 30 s · 5 min · 2 x 20 contacts`}>{t`Notches, the easiest first`}</Title>
      <ol>
        {list.fields.map((n, i) => (
          <Notch key={n.id} i={i} s={s} f={f} list={list} gates={gates} />
        ))}
      </ol>
      <button
        type="button"
        className="btn mt-3"
        onClick={() => {
          const last = f.form.getValues("notches").at(-1) ?? emptyNotch;
          list.append({ ...emptyNotch, exercise: last.exercise, dose: last.dose });
        }}
      >
        {t`Add a notch`}
      </button>
    </div>
  );
}

function Notch({
  i,
  s,
  f,
  list,
  gates,
}: {
  i: number;
  s: Shelf;
  f: Form;
  list: UseFieldArrayReturn<Typed, "notches">;
  gates: string[];
}) {
  const bad = f.bad(`notches.${i}.exercise`);
  return (
    <li className="grid items-end gap-3 border-b border-rule py-2 md:grid-cols-[2rem_minmax(0,1.6fr)_8rem_7rem_minmax(0,1fr)_auto_auto]">
      <b className="pb-2">{i + 1}</b>
      <label>
        <span className="block text-[13px] text-ink-2">{t`Exercise`}</span>
        <select
          className="field"
          aria-label={t`Notch ${i + 1}, exercise`}
          aria-invalid={!!bad}
          {...f.form.register(`notches.${i}.exercise`)}
        >
          <option value="">{t`choose`}</option>
          {s.exercises.map((e) => (
            <option key={e.id} value={e.id}>
              {e.name}
            </option>
          ))}
        </select>
        <Say id={`n${i}e`} error={bad} />
      </label>
      <Field
        label={<span className="text-[13px] font-normal text-ink-2">{t`Dose`}</span>}
        aria-label={t`Notch ${i + 1}, dose`}
        maxLength={notchLimits.dose.maxLength}
        {...f.text(`notches.${i}.dose`)}
      />
      <Field
        label={<span className="text-[13px] font-normal text-ink-2">{t`Load, % body`}</span>}
        aria-label={t`Notch ${i + 1}, added load in per cent of body weight`}
        type="number"
        min={notchLimits.bodyPercent.minimum}
        max={notchLimits.bodyPercent.maximum}
        {...f.text(`notches.${i}.bodyPercent`)}
      />
      <label>
        <span className="block text-[13px] text-ink-2">{t`Opens behind gate`}</span>
        <select
          className="field"
          aria-label={t`Notch ${i + 1}, gate`}
          {...f.form.register(`notches.${i}.gate`)}
        >
          <option value="">{t`none`}</option>
          {gates.map((g) => (
            <option key={g} value={g}>
              {gateName(g)}
            </option>
          ))}
        </select>
      </label>
      <label className="flex min-h-10 items-center gap-2 text-[14px]">
        <input type="checkbox" className={tickBox} {...f.form.register(`notches.${i}.gap48`)} />
        {t`rest day between`}
      </label>
      <span className="flex">
        <button
          type="button"
          className="btn-quiet"
          disabled={i === 0}
          aria-label={t`up: notch ${i + 1}`}
          onClick={() => list.move(i, i - 1)}
        >
          {t`Up`}
        </button>
        <button
          type="button"
          className="btn-quiet"
          disabled={list.fields.length === 1}
          aria-label={t`out: notch ${i + 1}`}
          onClick={() => list.remove(i)}
        >
          {t`Out`}
        </button>
      </span>
    </li>
  );
}
