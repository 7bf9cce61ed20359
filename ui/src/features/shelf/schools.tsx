import { t } from "@lingui/core/macro";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, need, type Schema } from "../../api/client";
import { Failed, Loading, SaveState } from "../../parts/states";
import { usePageTitle } from "../../parts/title";
import { ShelfTabs } from "./head";
import { useSchools } from "./hooks";

type Question = Schema["PlanningQuestion"];
export type School = Record<string, string>;

/** One question with its positions; under says what an empty answer means. */
export function QuestionRow({
  q,
  answer,
  under,
  underName,
  onAnswer,
  compact,
}: {
  q: Question;
  answer: string | undefined;
  under: string;
  underName: string;
  onAnswer: (v: string) => void;
  compact?: boolean;
}) {
  const shown = q.positions.find((p) => p.id === (answer || under));
  const base = q.positions.find((p) => p.id === under);
  return (
    <fieldset className={`border-b border-rule ${compact ? "py-2" : "py-3"}`}>
      <legend className="contents">
        <span className="font-semibold">{q.ask}</span>
      </legend>
      <div className="mt-1 flex flex-wrap gap-1">
        {q.positions.map((p) => (
          <label
            key={p.id}
            className="grid min-h-8 place-items-center rounded-[3px] border-[1.5px] border-edge bg-paper px-2.5 text-[14px] has-checked:border-ink has-checked:bg-ink has-checked:text-chalk has-focus-visible:outline-3 has-focus-visible:outline-offset-2 has-focus-visible:outline-ink"
          >
            <input
              type="radio"
              className="sr-only"
              name={`${q.id}${underName}`}
              checked={shown?.id === p.id}
              onChange={() => onAnswer(p.id === under ? "" : p.id)}
            />
            {p.name}
          </label>
        ))}
      </div>
      {!compact && (
        <p className="mt-1 max-w-3xl text-[14px] text-ink-2">
          {t`On the plan: “${shown?.says ?? ""}” Changes ${q.effect}.${shown?.id === under ? t` ${underName}, because ${q.why}.` : ` ${underName}: ${base?.name}.`}`}
        </p>
      )}
    </fieldset>
  );
}

/** Where practitioners differ: the practice's own answers. */
export function SchoolsView() {
  usePageTitle(t`Schools`, t`Shelf`);
  const schools = useSchools();
  const [saved, setSaved] = useState(false);
  if (schools.isPending) return <Loading what={t`the schools`} />;
  if (schools.error) return <Failed error={schools.error} retry={() => void schools.refetch()} />;
  return <Form key={schools.data.rev} s={schools.data} saved={saved} onSaved={() => setSaved(true)} />;
}

function Form({ s, saved, onSaved }: { s: Schema["Schools"]; saved: boolean; onSaved: () => void }) {
  const [answers, setAnswers] = useState<School>(s.answers);
  const qc = useQueryClient();
  const save = useMutation({
    mutationFn: () => need(api.PUT("/api/schools", { params: { query: { rev: s.rev } }, body: answers })),
    onSuccess: (next) => {
      onSaved();
      qc.setQueryData(["schools"], next);
    },
  });
  const changed = s.questions.some((q) => (answers[q.id] ?? "") !== (s.answers[q.id] ?? ""));
  return (
    <>
      <h1>{t`Shelf`}</h1>
      <p className="mt-1 mb-3 max-w-3xl text-ink-2">
        {t`Where practitioners differ, your practice says here what it does. Each runner can differ again on their plan; plans already made stay as they are.`}
      </p>
      <ShelfTabs />
      <form
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate();
        }}
      >
        <div className="sticky top-0 z-10 mb-2 flex flex-wrap items-center gap-4 bg-chalk py-2">
          <button type="submit" className="btn btn-main" disabled={!changed || save.isPending}>
            {t`Save`}
          </button>
          {changed && (
            <button type="button" className="btn" onClick={() => setAnswers(s.answers)}>
              {t`As it was`}
            </button>
          )}
          <p className="text-ink-2" role="status">
            {saved && !changed
              ? t`Saved.`
              : t`${Object.values(answers).filter(Boolean).length} of ${s.questions.length} differ from the default.`}
          </p>
          <SaveState error={save.error} saving={save.isPending} />
        </div>
        {s.questions.map((q) => (
          <QuestionRow
            key={q.id}
            q={q}
            answer={answers[q.id]}
            under={q.default}
            underName={t`The default`}
            onAnswer={(v) => setAnswers({ ...answers, [q.id]: v })}
          />
        ))}
      </form>
    </>
  );
}
