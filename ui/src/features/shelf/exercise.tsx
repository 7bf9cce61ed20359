import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";
import { type Control, useController } from "react-hook-form";
import { Link, useNavigate, useParams } from "react-router";
import type { z } from "zod";
import { api, need, type Schema } from "../../api/client";
import { OwnExercise as limits } from "../../api/limits";
import { Area, Field } from "../../parts/field";
import { Listed, Ticked, useChecked } from "../../parts/form";
import { Empty, Failed, Loading } from "../../parts/states";
import { blank, rules, type Typed, typed } from "./exerciserules";
import { Faults, OwnForm } from "./form";
import { type Shelf, timingName, useShelf, useShelfChange } from "./hooks";
import { Turning } from "./turning";

export type OwnExercise = Schema["OwnExercise"];

export function ExerciseForm() {
  const { id } = useParams();
  const shelf = useShelf();
  if (shelf.isPending) return <Loading what={t`the shelf`} />;
  if (shelf.error) return <Failed error={shelf.error} retry={() => void shelf.refetch()} />;
  const e = shelf.data.exercises.find((x) => x.id === id);
  if (id && !e)
    return (
      <Empty title={t`This exercise is not on the shelf`}>
        <Link className="btn mt-2" to="/shelf/exercises">
          {t`To the exercises`}
        </Link>
      </Empty>
    );
  return (
    <Fields key={`${id}${e?.rev}`} s={shelf.data} start={e ? typed(e) : blank} builtIn={!!e && !e.own} />
  );
}

function Fields({ s, start, builtIn }: { s: Shelf; start: Typed; builtIn: boolean }) {
  const f = useChecked(rules, start, `exercise:${start.id ?? "new"}:${start.rev}`);
  const { control } = f.form;
  const go = useNavigate();
  const save = useShelfChange((body: OwnExercise) => need(api.POST("/api/shelf/exercises", { body })));
  // The new shelf may take this form away before its own answer is heard.
  const submit = f.form.handleSubmit((body) =>
    save.mutateAsync(body).then(() => {
      f.done();
      go("/shelf/exercises?show=own");
    }, f.refused),
  );
  const poses: [string, string][] = [["", t`no drawing`], ...s.poses.map((p): [string, string] => [p, p])];
  const [from, to, turned, part] = f.form.watch(["start", "end", "turned", "part"]);
  return (
    <OwnForm
      className="max-w-4xl"
      title={start.id ? start.name : t`Own exercise`}
      say={
        builtIn
          ? t`You change it for your practice; the built-in text stays underneath. Plans already made keep theirs.`
          : t`An exercise of your practice. Put it on a ladder to plan with it.`
      }
      back="/shelf/exercises"
      drop={f.done}
      save={save}
      submit={submit}
    >
      <div className="grid gap-4 md:grid-cols-2">
        <Field label={t`Name`} required maxLength={limits.name.maxLength} {...f.text("name")} />
        <Field
          label={t`Short name`}
          hint={t`the few words before a dose: “one leg” 3 × 12`}
          required
          maxLength={limits.short.maxLength}
          {...f.text("short")}
        />
        <Listed label={t`Purpose`} control={control} name="purpose" options={s.purposes.map((p) => [p, p])} />
        <Field label={t`Position`} maxLength={limits.position.maxLength} {...f.text("position")} />
        <Listed
          label={t`Sides`}
          control={control}
          name="sides"
          options={[
            ["each", t`each side by itself`],
            ["together", t`both together`],
          ]}
        />
        <Listed
          label={t`When it fits`}
          control={control}
          name="timing"
          options={Object.entries(timingName)}
        />
        <Area
          label={t`Set-up`}
          className="md:col-span-2"
          rows={3}
          required
          maxLength={limits.setUp.maxLength}
          {...f.text("setUp")}
        />
        <Lines label={t`Cues, one a line, at most ${limits.cues.maxItems}`} control={control} name="cues" />
        <Lines label={t`Mistakes to watch, one a line`} control={control} name="mistakes" />
        <Lines label={t`Cautions, one a line`} control={control} name="cautions" />
      </div>
      <div className="mt-4">
        <div className="flex flex-wrap items-end gap-4">
          <Listed label={t`Drawing: start`} control={control} name="start" options={poses} />
          <Listed label={t`Drawing: end`} control={control} name="end" options={poses} />
        </div>
        <Turning
          start={from}
          end={to}
          part={part}
          turned={turned}
          onTurn={(next) => f.form.setValue("turned", next, { shouldDirty: true })}
        />
      </div>
      <div className="mt-4">
        <Ticked
          label={t`Equipment`}
          control={control}
          name="equipment"
          options={s.kit.map((k) => [k.id, k.name])}
        />
      </div>
      <div className="mt-4 grid gap-3 border-l-4 border-edge bg-paper p-3">
        <p>
          <Trans>
            <b>What safety looks for.</b> Flags, gates and complaints close an exercise by what it is. What
            you leave out counts as the more demanding.
          </Trans>
        </p>
        <Listed
          label={t`Where it acts`}
          control={control}
          name="part"
          options={[["", t`not said`], ...s.parts.map((p): [string, string] => [p, p.replaceAll("-", " ")])]}
        />
        <Ticked
          label={t`It is`}
          control={control}
          name="traits"
          options={s.traits.map((trait) => [trait, trait.replaceAll("-", " ")])}
        />
      </div>
      <Faults error={save.error} field="exercise" />
    </OwnForm>
  );
}

type Out = z.output<typeof rules>;

/** A list typed one a line. */
function Lines({
  label,
  control,
  name,
}: {
  label: string;
  control: Control<Typed, unknown, Out>;
  name: "cues" | "mistakes" | "cautions";
}) {
  const { field, fieldState } = useController({ control, name });
  const [text, setText] = useState(field.value.join("\n"));
  return (
    <Area
      label={label}
      rows={3}
      value={text}
      error={fieldState.error?.message}
      onChange={(e) => {
        setText(e.target.value);
        field.onChange(
          e.target.value
            .split("\n")
            .map((x) => x.trim())
            .filter(Boolean),
        );
      }}
    />
  );
}
