import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, need, Problem, type Schema } from "../api/client";
import { useDraft, useRunner } from "../api/hooks";
import { Area, Choice, Field, painScale } from "../parts/field";
import { readNumber } from "../parts/numbers";
import { Failed, Loading, SaveState } from "../parts/states";

type Runner = Schema["Runner"];
type Input = Schema["RunnerInput"];
type Typed = {
  name: string;
  birth: string;
  sex: string;
  massKg: string;
  weeklyKm: string;
  goal: string;
  note: string;
  first: string;
  rise: string;
  intake: number | undefined;
};

const blank: Typed = {
  name: "",
  birth: "",
  sex: "",
  massKg: "",
  weeklyKm: "",
  goal: "",
  note: "",
  first: "",
  rise: "",
  intake: undefined,
};
const yesNo = (v: boolean | undefined) => (v === undefined ? "" : v ? "yes" : "no");
const fromYesNo = (v: string) => (v === "" ? undefined : v === "yes");

const typed = (r: Runner): Typed => ({
  name: r.name,
  birth: r.birth ?? "",
  sex: r.sex ?? "",
  massKg: r.massKg?.toString() ?? "",
  weeklyKm: r.weeklyKm?.toString() ?? "",
  goal: r.goal ?? "",
  note: r.note ?? "",
  first: yesNo(r.firstStructuredWork),
  rise: yesNo(r.recentVolumeRise),
  intake: r.intakeFirstStep,
});

/** What is typed as the server wants it, with what can't be read as a number. */
function read(t: Typed): { body: Input; bad: Record<string, string> } {
  const mass = readNumber(t.massKg, "kg", "63.5");
  const km = readNumber(t.weeklyKm, "km", "32");
  const bad: Record<string, string> = {};
  if (mass.error) bad.massKg = mass.error;
  if (km.error) bad.weeklyKm = km.error;
  return {
    bad,
    body: {
      name: t.name,
      birth: t.birth || undefined,
      sex: (t.sex || undefined) as Input["sex"],
      massKg: mass.value,
      weeklyKm: km.value,
      goal: t.goal,
      note: t.note,
      firstStructuredWork: fromYesNo(t.first),
      recentVolumeRise: fromYesNo(t.rise),
      intakeFirstStep: t.intake,
    },
  };
}

function Form({
  value: t,
  set,
  bad,
}: {
  value: Typed;
  set: (t: Typed) => void;
  bad: Record<string, string>;
}) {
  const on = (k: "name" | "birth" | "massKg" | "weeklyKm" | "goal" | "note") => ({
    value: t[k],
    error: bad[k],
    onChange: (e: { target: { value: string } }) => set({ ...t, [k]: e.target.value }),
  });
  const known = [
    { value: "yes", label: "yes" },
    { value: "no", label: "no" },
  ];
  return (
    <div className="grid gap-x-8 gap-y-5 md:grid-cols-2">
      <Field label="Name" autoComplete="off" maxLength={120} {...on("name")} className="md:col-span-2" />
      <Field label="Date of birth" type="date" hint="Norms and cautions go by age" {...on("birth")} />
      <Choice
        label="Sex, for norms only"
        options={[
          { value: "female", label: "female" },
          { value: "male", label: "male" },
          { value: "other", label: "other" },
        ]}
        value={t.sex}
        onChange={(sex) => set({ ...t, sex })}
      />
      <Field label="Body mass, kg" inputMode="decimal" {...on("massKg")} />
      <Field
        label="Running, km a week"
        inputMode="decimal"
        hint="Mean of the last four weeks"
        {...on("weeklyKm")}
      />
      <Choice
        label="First structured strength work?"
        options={known}
        value={t.first}
        onChange={(first) => set({ ...t, first })}
      />
      <Choice
        label="Running volume up by more than 10 % in the last two weeks?"
        options={known}
        value={t.rise}
        onChange={(rise) => set({ ...t, rise })}
      />
      <div className="md:col-span-2">
        <Choice
          label="Pain on the first steps of the morning, usually (0 none, 10 worst)"
          options={painScale}
          value={t.intake}
          onChange={(intake) => set({ ...t, intake })}
          error={bad.intakeFirstStep}
        />
      </div>
      <Field label="Goal" maxLength={300} {...on("goal")} className="md:col-span-2" />
      <Area label="Note" rows={3} maxLength={4000} {...on("note")} className="md:col-span-2" />
      <p className="text-[14px] text-ink-2 md:col-span-2">
        What is left open counts as the more careful answer.
      </p>
    </div>
  );
}

export function NewRunner() {
  const draft = useDraft<Typed>("runner:new", blank);
  const go = useNavigate();
  const qc = useQueryClient();
  const { body, bad } = read(draft.value);
  const save = useMutation({
    mutationFn: () =>
      need(api.POST("/api/runners", { body, params: { header: { "Idempotency-Key": draft.key } } })),
    onError: draft.renew,
    onSuccess: (r) => {
      draft.done();
      void qc.invalidateQueries({ queryKey: ["bench"] });
      go(`/runners/${r.id}`);
    },
  });
  const server = save.error instanceof Problem ? save.error.fields : {};
  return (
    <form
      noValidate
      className="max-w-3xl"
      onSubmit={(e) => {
        e.preventDefault();
        if (Object.keys(bad).length === 0) save.mutate();
      }}
    >
      <h1 className="mb-6">New runner</h1>
      <Form value={draft.value} set={draft.set} bad={{ ...server, ...bad }} />
      <div className="mt-6 flex flex-wrap items-center gap-4">
        <button type="submit" className="btn btn-main" disabled={save.isPending}>
          Add the runner
        </button>
        <Link className="btn" to="/" onClick={draft.done}>
          Cancel
        </Link>
        <SaveState error={save.error} saving={save.isPending} />
      </div>
    </form>
  );
}

export function EditRunner() {
  const { id = "" } = useParams();
  const r = useRunner(id);
  if (r.isPending) return <Loading what="the runner" />;
  if (r.error) return <Failed error={r.error} retry={() => void r.refetch()} />;
  return <Edit key={id} runner={r.data} />;
}

function Edit({ runner }: { runner: Runner }) {
  const [base, setBase] = useState(runner);
  const draft = useDraft<Typed>(`runner:${runner.id}`, typed(runner));
  const go = useNavigate();
  const qc = useQueryClient();
  const { body, bad } = read(draft.value);
  const save = useMutation({
    mutationFn: () =>
      need(
        api.PUT("/api/runners/{id}", {
          body,
          params: { path: { id: runner.id }, header: { "If-Match": String(base.version) } },
        }),
      ),
    onSuccess: (saved) => {
      draft.done();
      qc.setQueryData(["runner", runner.id], saved);
      void qc.invalidateQueries({ queryKey: ["bench"] });
      go(`/runners/${runner.id}`);
    },
  });
  const stale =
    save.error instanceof Problem && save.error.status === 412 ? (save.error.value as Runner) : undefined;
  const server = save.error instanceof Problem ? save.error.fields : {};
  const theirs = stale && differences(typed(stale), draft.value);
  return (
    <form
      noValidate
      className="max-w-3xl"
      onSubmit={(e) => {
        e.preventDefault();
        if (Object.keys(bad).length === 0) save.mutate();
      }}
    >
      <h1 className="mb-6">{base.name}</h1>
      {stale && theirs && (
        <div role="alert" className="mb-6 border-l-4 border-clay bg-paper p-4">
          <h3>Someone else saved this runner in the meantime</h3>
          <p className="mt-1">What you typed is still here. What stands now and differs:</p>
          <ul className="mt-2 list-disc pl-5">
            {theirs.map(([k, now]) => (
              <li key={k}>
                {k}: <b>{now || "empty"}</b>
              </li>
            ))}
            {theirs.length === 0 && <li>nothing; both say the same</li>}
          </ul>
          <div className="mt-3 flex flex-wrap gap-3">
            <button
              type="button"
              className="btn"
              onClick={() => {
                setBase(stale);
                draft.set(typed(stale));
                save.reset();
              }}
            >
              Take what stands now
            </button>
            <button
              type="button"
              className="btn"
              onClick={() => {
                setBase(stale);
                save.reset();
              }}
            >
              Keep mine, then save again
            </button>
          </div>
        </div>
      )}
      <Form value={draft.value} set={draft.set} bad={{ ...server, ...bad }} />
      <div className="mt-6 flex flex-wrap items-center gap-4">
        <button type="submit" className="btn btn-main" disabled={save.isPending || !!stale}>
          Save
        </button>
        <Link className="btn" to={`/runners/${runner.id}`} onClick={draft.done}>
          Cancel
        </Link>
        {!stale && <SaveState error={save.error} saving={save.isPending} />}
      </div>
    </form>
  );
}

const labels: Record<keyof Typed, string> = {
  name: "Name",
  birth: "Date of birth",
  sex: "Sex",
  massKg: "Body mass",
  weeklyKm: "Running",
  goal: "Goal",
  note: "Note",
  first: "First structured strength work",
  rise: "Volume up",
  intake: "First steps",
};

function differences(now: Typed, mine: Typed): [string, string][] {
  return (Object.keys(labels) as (keyof Typed)[])
    .filter((k) => String(now[k] ?? "") !== String(mine[k] ?? ""))
    .map((k) => [labels[k], String(now[k] ?? "")]);
}
