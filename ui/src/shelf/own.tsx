import type { ReactNode } from "react";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, need, Problem, type Schema } from "../api/client";
import { useDraft } from "../api/hooks";
import { Area, Field, Say, Select } from "../parts/field";
import { Title } from "../parts/marks";
import { Picture } from "../parts/picture";
import { Empty, Failed, Loading, SaveState } from "../parts/states";
import { gateName, placeName, type Shelf, timingName, tissueName, useShelf, useShelfChange } from "./hooks";

type OwnExercise = Schema["OwnExercise"];
type OwnLadder = Schema["OwnLadder"];

const lines = (text: string) =>
  text
    .split("\n")
    .map((x) => x.trim())
    .filter(Boolean);

/** The server's sentences about a whole thing, without its inner name. */
function Faults({ error, field }: { error: Error | null; field: string }) {
  if (!(error instanceof Problem)) return null;
  const own = Object.entries(error.fields).filter(([k]) => k === field);
  return (
    <>
      {own.map(([k, v]) => (
        <Say key={k} id={`fault-${k}`} error={v.replace(/^(exercise|ladder) "[^"]*": /, "")} />
      ))}
    </>
  );
}

/** A form of something own: its name, what it does to plans, and what comes after. */
function OwnForm({
  title,
  say,
  className,
  save,
  saved,
  children,
}: {
  title: string;
  say: string;
  className?: string;
  save: (onSuccess: () => void) => void;
  saved: () => void;
  children: ReactNode;
}) {
  return (
    <form
      className={className}
      onSubmit={(e) => {
        e.preventDefault();
        save(saved);
      }}
    >
      <h1 className="mb-1">{title}</h1>
      <p className="mb-5 max-w-3xl text-ink-2">{say}</p>
      {children}
    </form>
  );
}

function Ticks({
  label,
  options,
  value,
  onChange,
}: {
  label: string;
  options: [string, string][];
  value: string[];
  onChange: (v: string[]) => void;
}) {
  return (
    <fieldset>
      <legend className="mb-1 font-semibold">{label}</legend>
      <div className="flex flex-wrap gap-x-4 gap-y-1">
        {options.map(([id, name]) => (
          <label key={id} className="inline-flex min-h-8 items-center gap-2">
            <input
              type="checkbox"
              className="size-4 accent-[var(--ink)]"
              checked={value.includes(id)}
              onChange={(e) => onChange(e.target.checked ? [...value, id] : value.filter((x) => x !== id))}
            />
            {name}
          </label>
        ))}
      </div>
    </fieldset>
  );
}

export function ExerciseForm() {
  const { id } = useParams();
  const shelf = useShelf();
  if (shelf.isPending) return <Loading what="the shelf" />;
  if (shelf.error) return <Failed error={shelf.error} retry={() => void shelf.refetch()} />;
  const e = shelf.data.exercises.find((x) => x.id === id);
  if (id && !e)
    return (
      <Empty title="This exercise is not on the shelf">
        <Link className="btn mt-2" to="/shelf/exercises">
          To the exercises
        </Link>
      </Empty>
    );
  const start: OwnExercise = e
    ? {
        id: e.id,
        rev: e.rev,
        name: e.name,
        short: e.short,
        purpose: e.purpose,
        position: e.position,
        sides: e.sides,
        setUp: e.setUp,
        cues: e.cues,
        mistakes: e.mistakes,
        equipment: e.equipment,
        timing: e.timing,
        cautions: e.cautions ?? [],
        part: e.part,
        traits: e.traits ?? [],
        start: e.figure?.[0],
        end: e.figure?.[1],
      }
    : {
        rev: 0,
        name: "",
        short: "",
        purpose: "strength",
        position: "standing",
        sides: "each",
        setUp: "",
        cues: [],
        mistakes: [],
        equipment: [],
        timing: "any",
        cautions: [],
        part: "",
        traits: [],
        start: "",
        end: "",
      };
  return <ExerciseFields key={`${id}${e?.rev}`} s={shelf.data} start={start} builtIn={!!e && !e.own} />;
}

function ExerciseFields({ s, start, builtIn }: { s: Shelf; start: OwnExercise; builtIn: boolean }) {
  const draft = useDraft<OwnExercise>(`exercise:${start.id ?? "new"}:${start.rev}`, start);
  const go = useNavigate();
  const save = useShelfChange(() => need(api.POST("/api/shelf/exercises", { body: draft.value })));
  const v = draft.value;
  const set = (part: Partial<OwnExercise>) => draft.set({ ...v, ...part });
  const poses: [string, string][] = [["", "no drawing"], ...s.poses.map((p): [string, string] => [p, p])];
  const drawn = s.exercises.find((e) => e.figure?.[0] === v.start && e.figure?.[1] === v.end)?.picture;
  return (
    <OwnForm
      className="max-w-4xl"
      title={start.id ? start.name : "Own exercise"}
      say={
        builtIn
          ? "You change it for your practice; the built-in text stays underneath. Plans already made keep theirs."
          : "An exercise of your practice. Put it on a ladder to plan with it."
      }
      save={(onSuccess) => save.mutate(undefined, { onSuccess })}
      saved={() => {
        draft.done();
        go("/shelf/exercises?show=own");
      }}
    >
      <div className="grid gap-4 md:grid-cols-2">
        <Field
          label="Name"
          required
          maxLength={120}
          value={v.name}
          onChange={(e) => set({ name: e.target.value })}
        />
        <Field
          label="Short name"
          hint="the few words before a dose: “one leg” 3 × 12"
          required
          maxLength={60}
          value={v.short}
          onChange={(e) => set({ short: e.target.value })}
        />
        <Select
          label="Purpose"
          value={v.purpose}
          onChange={(purpose) => set({ purpose })}
          options={s.purposes.map((p) => [p, p])}
        />
        <Field
          label="Position"
          maxLength={60}
          value={v.position}
          onChange={(e) => set({ position: e.target.value })}
        />
        <Select
          label="Sides"
          value={v.sides}
          onChange={(x) => set({ sides: x as OwnExercise["sides"] })}
          options={[
            ["each", "each side by itself"],
            ["together", "both together"],
          ]}
        />
        <Select
          label="When it fits"
          value={v.timing}
          onChange={(x) => set({ timing: x as OwnExercise["timing"] })}
          options={Object.entries(timingName)}
        />
        <Area
          label="Set-up"
          className="md:col-span-2"
          rows={3}
          required
          maxLength={1000}
          value={v.setUp}
          onChange={(e) => set({ setUp: e.target.value })}
        />
        <Lines
          label="Cues, one a line, at most three"
          value={v.cues}
          most={3}
          onChange={(cues) => set({ cues })}
        />
        <Lines
          label="Mistakes to watch, one a line"
          value={v.mistakes}
          most={10}
          onChange={(mistakes) => set({ mistakes })}
        />
        <Lines
          label="Cautions, one a line"
          value={v.cautions}
          most={5}
          onChange={(cautions) => set({ cautions })}
        />
        <div className="flex flex-wrap items-end gap-4">
          <Select
            label="Drawing: start"
            value={v.start ?? ""}
            onChange={(x) => set({ start: x })}
            options={poses}
          />
          <Select
            label="Drawing: end"
            value={v.end ?? ""}
            onChange={(x) => set({ end: x })}
            options={poses}
          />
          <Picture picture={drawn} size={64} />
        </div>
      </div>
      <div className="mt-4">
        <Ticks
          label="Equipment"
          options={s.kit.map((k) => [k.id, k.name])}
          value={v.equipment}
          onChange={(equipment) => set({ equipment })}
        />
      </div>
      <div className="mt-4 grid gap-3 border-l-4 border-edge bg-paper p-3">
        <p>
          <b>What safety looks for.</b> Flags, gates and complaints close an exercise by what it is. What you
          leave out counts as the more demanding.
        </p>
        <Select
          label="Where it acts"
          value={v.part ?? ""}
          onChange={(part) => set({ part })}
          options={[["", "not said"], ...s.parts.map((p): [string, string] => [p, p.replaceAll("-", " ")])]}
        />
        <Ticks
          label="It is"
          options={s.traits.map((t) => [t, t.replaceAll("-", " ")])}
          value={v.traits ?? []}
          onChange={(traits) => set({ traits })}
        />
      </div>
      <Faults error={save.error} field="exercise" />
      <FormEnd back="/shelf/exercises" drop={draft.done} error={save.error} saving={save.isPending} />
    </OwnForm>
  );
}

function FormEnd({
  back,
  drop,
  error,
  saving,
}: {
  back: string;
  drop: () => void;
  error: Error | null;
  saving: boolean;
}) {
  return (
    <div className="mt-5 flex flex-wrap items-center gap-4">
      <button type="submit" className="btn btn-main" disabled={saving}>
        Save
      </button>
      <Link className="btn" to={back} onClick={drop}>
        Cancel
      </Link>
      <SaveState error={error} saving={saving} />
    </div>
  );
}

function Lines({
  label,
  value,
  most,
  onChange,
}: {
  label: string;
  value: string[];
  most: number;
  onChange: (v: string[]) => void;
}) {
  const [text, setText] = useState(value.join("\n"));
  const n = lines(text).length;
  return (
    <Area
      label={label}
      rows={3}
      value={text}
      error={n > most ? `${n} lines; expected at most ${most}` : undefined}
      onChange={(e) => {
        setText(e.target.value);
        onChange(lines(e.target.value));
      }}
    />
  );
}

export function LadderForm() {
  const { id } = useParams();
  const shelf = useShelf();
  if (shelf.isPending) return <Loading what="the shelf" />;
  if (shelf.error) return <Failed error={shelf.error} retry={() => void shelf.refetch()} />;
  const l = shelf.data.ladders.find((x) => x.id === id);
  if (id && !l)
    return (
      <Empty title="This ladder is not on the shelf">
        <Link className="btn mt-2" to="/shelf">
          To the ladders
        </Link>
      </Empty>
    );
  const [min, max] = l?.perWeek.match(/\d+/g)?.map(Number) ?? [2, 3];
  const start: OwnLadder = l
    ? {
        id: l.id,
        rev: l.rev,
        name: l.name,
        purpose: l.purpose,
        place: l.place,
        tissues: l.tissues,
        min: min ?? 2,
        max: max ?? min ?? 3,
        effort: l.effort,
        notches: l.notches.map((n) => ({
          exercise: n.exercise,
          dose: n.typed,
          bodyPercent: n.bodyPercent,
          gate: n.gate,
          gap48: n.gap48,
        })),
      }
    : {
        rev: 0,
        name: "",
        purpose: "strength",
        place: "main",
        tissues: [],
        min: 2,
        max: 3,
        effort: "reserve",
        notches: [{ exercise: "", dose: "2 x 10" }],
      };
  return <LadderFields key={`${id}${l?.rev}`} s={shelf.data} start={start} builtIn={!!l && !l.own} />;
}

function LadderFields({ s, start, builtIn }: { s: Shelf; start: OwnLadder; builtIn: boolean }) {
  const draft = useDraft<OwnLadder>(`ladder:${start.id ?? "new"}:${start.rev}`, start);
  const go = useNavigate();
  const save = useShelfChange(() => need(api.POST("/api/shelf/ladders", { body: draft.value })));
  const v = draft.value;
  const set = (part: Partial<OwnLadder>) => draft.set({ ...v, ...part });
  const bad = save.error instanceof Problem ? save.error.fields : {};
  const gates = [...new Set(s.ladders.flatMap((l) => l.gates))];
  const notch = (i: number, part: Partial<Schema["OwnNotch"]>) =>
    set({ notches: v.notches.map((n, k) => (k === i ? { ...n, ...part } : n)) });
  const move = (i: number, by: number) => {
    const next = [...v.notches];
    const [n] = next.splice(i, 1);
    if (n) next.splice(i + by, 0, n);
    set({ notches: next });
  };
  return (
    <OwnForm
      title={start.id ? start.name : "Own ladder"}
      say={
        builtIn
          ? "You lay your practice's version over the built-in ladder. A start that pointed to a notch you take out goes to the next easier one; runners already on it keep the ladder they were given."
          : "From the easiest notch to the hardest. Within one exercise neither volume nor load may fall."
      }
      save={(onSuccess) => save.mutate(undefined, { onSuccess })}
      saved={() => {
        draft.done();
        go("/shelf?show=own");
      }}
    >
      <div className="grid gap-4 md:grid-cols-3">
        <Field
          label="Name"
          required
          maxLength={120}
          value={v.name}
          onChange={(e) => set({ name: e.target.value })}
        />
        <Select
          label="Purpose"
          value={v.purpose}
          onChange={(purpose) => set({ purpose })}
          options={s.purposes.map((p) => [p, p])}
        />
        <Select
          label="Where in the week"
          value={v.place}
          onChange={(x) => set({ place: x as OwnLadder["place"] })}
          options={Object.entries(placeName)}
        />
        <Field
          label="At least, times a week"
          type="number"
          min={1}
          max={7}
          value={v.min}
          onChange={(e) => set({ min: Number(e.target.value) })}
        />
        <Field
          label="At most, times a week"
          type="number"
          min={1}
          max={7}
          value={v.max}
          onChange={(e) => set({ max: Number(e.target.value) })}
        />
        <Select
          label="Effort left is asked as"
          value={v.effort}
          onChange={(x) => set({ effort: x as OwnLadder["effort"] })}
          options={[
            ["reserve", "repetitions in reserve"],
            ["twenty", "sure of 20 % more"],
            ["none", "not asked"],
          ]}
        />
        <div className="md:col-span-3">
          <Ticks
            label="Tissues it loads"
            options={Object.entries(tissueName)}
            value={v.tissues}
            onChange={(tissues) => set({ tissues })}
          />
        </div>
      </div>
      <div className="mt-5">
        <Title aside="3 x 12 · 3 x 30 s · 5 min · 2 x 20 contacts">Notches, the easiest first</Title>
        <ol>
          {v.notches.map((n, i) => (
            <li
              // biome-ignore lint/suspicious/noArrayIndexKey: a notch is its place
              key={i}
              className="grid items-end gap-3 border-b border-rule py-2 md:grid-cols-[2rem_minmax(0,1.6fr)_8rem_7rem_minmax(0,1fr)_auto_auto]"
            >
              <b className="pb-2">{i + 1}</b>
              <label>
                <span className="block text-[13px] text-ink-2">Exercise</span>
                <select
                  className="field"
                  aria-label={`Notch ${i + 1}, exercise`}
                  aria-invalid={!!bad[`notches[${i}].exercise`]}
                  value={n.exercise}
                  onChange={(e) => notch(i, { exercise: e.target.value })}
                >
                  <option value="">choose</option>
                  {s.exercises.map((e) => (
                    <option key={e.id} value={e.id}>
                      {e.name}
                    </option>
                  ))}
                </select>
                <Say id={`n${i}e`} error={bad[`notches[${i}].exercise`]} />
              </label>
              <div>
                <Field
                  label={<span className="text-[13px] font-normal text-ink-2">Dose</span>}
                  aria-label={`Notch ${i + 1}, dose`}
                  value={n.dose}
                  error={bad[`notches[${i}].dose`]}
                  onChange={(e) => notch(i, { dose: e.target.value })}
                />
              </div>
              <Field
                label={<span className="text-[13px] font-normal text-ink-2">Load, % body</span>}
                aria-label={`Notch ${i + 1}, added load in per cent of body weight`}
                type="number"
                min={0}
                max={200}
                value={n.bodyPercent ?? ""}
                onChange={(e) =>
                  notch(i, { bodyPercent: e.target.value ? Number(e.target.value) : undefined })
                }
              />
              <label>
                <span className="block text-[13px] text-ink-2">Gate before it</span>
                <select
                  className="field"
                  aria-label={`Notch ${i + 1}, gate`}
                  value={n.gate ?? ""}
                  onChange={(e) => notch(i, { gate: e.target.value || undefined })}
                >
                  <option value="">none</option>
                  {gates.map((g) => (
                    <option key={g} value={g}>
                      {gateName(g)}
                    </option>
                  ))}
                </select>
              </label>
              <label className="flex min-h-10 items-center gap-2 text-[14px]">
                <input
                  type="checkbox"
                  className="size-4 accent-[var(--ink)]"
                  checked={!!n.gap48}
                  onChange={(e) => notch(i, { gap48: e.target.checked })}
                />
                rest day between
              </label>
              <span className="flex">
                <button
                  type="button"
                  className="btn-quiet"
                  disabled={i === 0}
                  aria-label={`up: notch ${i + 1}`}
                  onClick={() => move(i, -1)}
                >
                  up
                </button>
                <button
                  type="button"
                  className="btn-quiet"
                  disabled={v.notches.length === 1}
                  aria-label={`out: notch ${i + 1}`}
                  onClick={() => set({ notches: v.notches.filter((_, k) => k !== i) })}
                >
                  out
                </button>
              </span>
            </li>
          ))}
        </ol>
        <button
          type="button"
          className="btn mt-3"
          onClick={() => {
            const last = v.notches[v.notches.length - 1];
            set({ notches: [...v.notches, { exercise: last?.exercise ?? "", dose: last?.dose ?? "" }] });
          }}
        >
          Add a notch
        </button>
      </div>
      <Faults error={save.error} field="notches" />
      <FormEnd back="/shelf" drop={draft.done} error={save.error} saving={save.isPending} />
    </OwnForm>
  );
}
