import { t } from "@lingui/core/macro";
import { Link, useNavigate, useParams } from "react-router";
import * as z from "zod/mini";
import { api, need, type Schema } from "../../api/client";
import { OwnLadder as limits } from "../../api/limits";
import { Field } from "../../parts/field";
import { Listed, Ticked, useChecked } from "../../parts/form";
import { Empty, Failed, Loading } from "../../parts/states";
import { Faults, OwnForm } from "./form";
import { placeName, type Shelf, tissueName, useShelf, useShelfChange } from "./hooks";
import { Notches } from "./notches";

type OwnLadder = Schema["OwnLadder"];

const optional = (v: string) => v || undefined;
const rules = z.object({
  id: z.optional(z.string()),
  rev: z.number(),
  name: z.string(),
  purpose: z.string(),
  place: z.enum(["micro", "main", "evening", "run", "day"]),
  tissues: z.array(z.string()),
  min: z.pipe(z.string(), z.transform(Number)),
  max: z.pipe(z.string(), z.transform(Number)),
  effort: z.enum(["reserve", "twenty", "none"]),
  notches: z.array(
    z.object({
      exercise: z.string(),
      dose: z.string(),
      bodyPercent: z.pipe(
        z.string(),
        z.transform((v: string) => (v === "" ? undefined : Number(v))),
      ),
      gate: z.pipe(z.string(), z.transform(optional)),
      gap48: z.boolean(),
    }),
  ),
}) satisfies z.ZodMiniType<OwnLadder>;
export type Typed = z.input<typeof rules>;
export const emptyNotch = { exercise: "", dose: "2 x 10", bodyPercent: "", gate: "", gap48: false };

const blank: Typed = {
  rev: 0,
  name: "",
  purpose: "strength",
  place: "main",
  tissues: [],
  min: "2",
  max: "3",
  effort: "reserve",
  notches: [emptyNotch],
};

function typed(l: Shelf["ladders"][number]): Typed {
  const [min = "2", max = min] = l.perWeek.match(/\d+/g) ?? ["2", "3"];
  return {
    id: l.id,
    rev: l.rev,
    name: l.name,
    purpose: l.purpose,
    place: l.place,
    tissues: l.tissues,
    min,
    max,
    effort: l.effort,
    notches: l.notches.map((n) => ({
      exercise: n.exercise,
      dose: n.typed,
      bodyPercent: n.bodyPercent?.toString() ?? "",
      gate: n.gate ?? "",
      gap48: !!n.gap48,
    })),
  };
}

export function LadderForm() {
  const { id } = useParams();
  const shelf = useShelf();
  if (shelf.isPending) return <Loading what={t`the shelf`} />;
  if (shelf.error) return <Failed error={shelf.error} retry={() => void shelf.refetch()} />;
  const l = shelf.data.ladders.find((x) => x.id === id);
  if (id && !l)
    return (
      <Empty title={t`This ladder is not on the shelf`}>
        <Link className="btn mt-2" to="/shelf">
          {t`To the ladders`}
        </Link>
      </Empty>
    );
  return (
    <Fields key={`${id}${l?.rev}`} s={shelf.data} start={l ? typed(l) : blank} builtIn={!!l && !l.own} />
  );
}

const useForm = (start: Typed) => useChecked(rules, start, `ladder:${start.id ?? "new"}:${start.rev}`);
export type Form = ReturnType<typeof useForm>;

function Fields({ s, start, builtIn }: { s: Shelf; start: Typed; builtIn: boolean }) {
  const f = useForm(start);
  const { control } = f.form;
  const go = useNavigate();
  const save = useShelfChange((body: OwnLadder) => need(api.POST("/api/shelf/ladders", { body })));
  // The new shelf may take this form away before its own answer is heard.
  const submit = f.form.handleSubmit((body) =>
    save.mutateAsync(body).then(() => {
      f.done();
      go("/shelf?show=own");
    }, f.refused),
  );
  return (
    <OwnForm
      title={start.id ? start.name : t`Own ladder`}
      say={
        builtIn
          ? t`You lay your practice's version over the built-in ladder. A start that pointed to a notch you take out goes to the next easier one; runners already on it keep the ladder they were given.`
          : t`From the easiest notch to the hardest. Within one exercise neither volume nor load may fall.`
      }
      back="/shelf"
      drop={f.done}
      save={save}
      submit={submit}
    >
      <div className="grid gap-4 md:grid-cols-3">
        <Field label={t`Name`} required maxLength={limits.name.maxLength} {...f.text("name")} />
        <Listed label={t`Purpose`} control={control} name="purpose" options={s.purposes.map((p) => [p, p])} />
        <Listed
          label={t`Where in the week`}
          control={control}
          name="place"
          options={Object.entries(placeName)}
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
        <Listed
          label={t`Effort left is asked as`}
          control={control}
          name="effort"
          options={[
            ["reserve", t`repetitions in reserve`],
            ["twenty", t`sure of 20 % more`],
            ["none", t`not asked`],
          ]}
        />
        <div className="md:col-span-3">
          <Ticked
            label={t`Tissues it loads`}
            control={control}
            name="tissues"
            options={Object.entries(tissueName)}
          />
        </div>
      </div>
      <Notches s={s} f={f} />
      <Faults error={save.error} field="notches" />
    </OwnForm>
  );
}
