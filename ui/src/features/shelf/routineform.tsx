import { t } from "@lingui/core/macro";
import { type UseFieldArrayReturn, useFieldArray } from "react-hook-form";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { api, need } from "../../api/client";
import { OwnRoutine as limits, OwnPart as partLimits } from "../../api/limits";
import { Area, Field, Say } from "../../parts/field";
import { Listed, useChecked } from "../../parts/form";
import { Title } from "../../parts/marks";
import { Empty, Failed, Loading } from "../../parts/states";
import { tickBox } from "../../parts/tick";
import { Faults, OwnForm } from "./form";
import { type Shelf, useShelf, useShelfChange } from "./hooks";
import { blank, copied, emptyPart, type OwnRoutine, rules, type Typed, typed } from "./routinemodel";

export function RoutineForm() {
  const { id } = useParams();
  const [params] = useSearchParams();
  const from = params.get("from");
  const shelf = useShelf();
  if (shelf.isPending) return <Loading what={t`the shelf`} />;
  if (shelf.error) return <Failed error={shelf.error} retry={() => void shelf.refetch()} />;
  const find = (x: string | null | undefined) => shelf.data.routines.find((r) => r.id === x);
  const own = find(id);
  const source = find(from);
  if (id && !own)
    return (
      <Empty title={t`This routine is not on the shelf`}>
        <Link className="btn mt-2" to="/shelf/routines">
          {t`To the routines`}
        </Link>
      </Empty>
    );
  const start = own ? typed(own) : source ? copied(source) : blank;
  return <Fields key={`${id}${from}${own?.rev}`} s={shelf.data} start={start} />;
}

const useForm = (start: Typed) =>
  useChecked(rules, start, `routine:${start.id ?? start.from ?? "new"}:${start.rev}`);
type Form = ReturnType<typeof useForm>;

function Fields({ s, start }: { s: Shelf; start: Typed }) {
  const f = useForm(start);
  const { control } = f.form;
  const go = useNavigate();
  const save = useShelfChange((body: OwnRoutine) => need(api.POST("/api/shelf/routines", { body })));
  const submit = f.form.handleSubmit((body) =>
    save.mutateAsync(body).then(() => {
      f.done();
      go("/shelf/routines?show=own");
    }, f.refused),
  );
  return (
    <OwnForm
      title={start.id ? start.name : start.from ? t`Copy of a routine` : t`Own routine`}
      say={t`Parts in the order they are done. What a runner has on a ladder of the block stands at the runner's own notch; what is closed drops out. Routines already given stay as they were given.`}
      back="/shelf/routines"
      drop={f.done}
      save={save}
      submit={submit}
    >
      <div className="grid gap-4 md:grid-cols-3">
        <Field label={t`Name`} required maxLength={limits.name.maxLength} {...f.text("name")} />
        <Listed
          label={t`When`}
          control={control}
          name="when"
          options={[
            ["any", t`any time`],
            ["before-run", t`before a run`],
            ["run", t`in a run`],
            ["morning", t`in the morning`],
            ["evening", "evening"],
            ["barefoot", t`without shoes`],
          ]}
        />
        <Listed
          label={t`Before and after`}
          control={control}
          name="compare"
          options={[
            ["", t`nothing compared`],
            ["steps", t`ten steps`],
            ["walk", t`heel and toe walk`],
            ["cm", t`centimetres of each side`],
          ]}
        />
        {(["min", "max"] as const).map((k) => (
          <Field
            key={k}
            label={t`At ${k === "min" ? t`least` : t`most`}, times a week`}
            type="number"
            min={limits[k].minimum}
            max={limits[k].maximum}
            {...f.text(k)}
          />
        ))}
        <Field
          label={t`What is measured`}
          hint={t`with centimetres: “Knee to wall”`}
          maxLength={limits.compared.maxLength}
          {...f.text("compared")}
        />
        <Area
          label={t`What it is for`}
          className="md:col-span-2"
          rows={2}
          required
          maxLength={limits.for.maxLength}
          {...f.text("for")}
        />
        <Area label={t`Who it suits`} rows={2} maxLength={limits.suits.maxLength} {...f.text("suits")} />
        <Area
          label={t`Said at its end`}
          className="md:col-span-2"
          rows={2}
          maxLength={limits.late.maxLength}
          {...f.text("late")}
        />
      </div>
      <PartList s={s} f={f} />
      <Faults error={save.error} field="parts" />
    </OwnForm>
  );
}

function PartList({ s, f }: { s: Shelf; f: Form }) {
  const list = useFieldArray({ control: f.form.control, name: "parts" });
  return (
    <div className="mt-5">
      <Title aside={t`3 x 12 · 3 x 30 s · 5 min · 1 x 20 paces`}>{t`Parts, in order`}</Title>
      <ol>
        {list.fields.map((n, i) => (
          <Part key={n.id} i={i} s={s} f={f} list={list} />
        ))}
      </ol>
      <button type="button" className="btn mt-3" onClick={() => list.append(emptyPart)}>
        {t`Add a part`}
      </button>
    </div>
  );
}

const quiet = (text: string) => <span className="text-[13px] font-normal text-ink-2">{text}</span>;

function Part({
  i,
  s,
  f,
  list,
}: {
  i: number;
  s: Shelf;
  f: Form;
  list: UseFieldArrayReturn<Typed, "parts">;
}) {
  const bad = f.bad(`parts.${i}.exercise`);
  const name = t`Part ${i + 1}`;
  return (
    <li className="grid items-end gap-x-3 gap-y-1 border-b border-rule py-2 md:grid-cols-[2rem_minmax(0,1.5fr)_minmax(0,1.2fr)_7rem_7rem_auto]">
      <b className="pb-2">{i + 1}</b>
      <label>
        <span className="block text-[13px] text-ink-2">{t`Exercise`}</span>
        <select
          className="field"
          aria-label={t`${name}, exercise`}
          aria-invalid={!!bad}
          {...f.form.register(`parts.${i}.exercise`)}
        >
          <option value="">{t`choose`}</option>
          {s.exercises.map((e) => (
            <option key={e.id} value={e.id}>
              {e.name}
            </option>
          ))}
        </select>
        <Say id={`p${i}e`} error={bad} />
      </label>
      <label>
        <span className="block text-[13px] text-ink-2">{t`Work of the ladder`}</span>
        <select className="field" aria-label={t`${name}, ladder`} {...f.form.register(`parts.${i}.ladder`)}>
          <option value="">{t`none`}</option>
          {s.ladders.map((l) => (
            <option key={l.id} value={l.id}>
              {l.name}
            </option>
          ))}
        </select>
      </label>
      <Field
        label={quiet(t`Dose`)}
        aria-label={t`${name}, dose`}
        maxLength={partLimits.dose.maxLength}
        {...f.text(`parts.${i}.dose`)}
      />
      <Field
        label={quiet(t`Long version`)}
        aria-label={t`${name}, dose of the long version`}
        maxLength={partLimits.most.maxLength}
        {...f.text(`parts.${i}.most`)}
      />
      <span className="flex">
        <button
          type="button"
          className="btn-quiet"
          disabled={i === 0}
          aria-label={t`up: part ${i + 1}`}
          onClick={() => list.move(i, i - 1)}
        >
          {t`Up`}
        </button>
        <button
          type="button"
          className="btn-quiet"
          disabled={list.fields.length === 1}
          aria-label={t`out: part ${i + 1}`}
          onClick={() => list.remove(i)}
        >
          {t`Out`}
        </button>
      </span>
      <span className="flex flex-wrap items-end gap-x-5 md:col-span-5 md:col-start-2">
        <Field
          label={quiet(t`How, in a few words`)}
          aria-label={t`${name}, how`}
          className="min-w-64 grow"
          maxLength={partLimits.more.maxLength}
          {...f.text(`parts.${i}.more`)}
        />
        <label className="flex min-h-10 items-center gap-2 text-[14px]">
          <input type="checkbox" className={tickBox} {...f.form.register(`parts.${i}.key`)} />
          {t`what it is for`}
        </label>
        <label className="flex min-h-10 items-center gap-2 text-[14px]">
          <input type="checkbox" className={tickBox} {...f.form.register(`parts.${i}.longOnly`)} />
          {t`long version only`}
        </label>
      </span>
    </li>
  );
}
