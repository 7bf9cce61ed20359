import type { Schema } from "../../api/client";
import { SideName } from "../../parts/marks";

export function QuestionGroup({
  g,
  answers,
  set,
}: {
  g: Schema["SafetyGroup"];
  answers: Schema["SafetyAnswers"];
  set: (a: Schema["SafetyAnswers"]) => void;
}) {
  const none = answers.none.includes(g.name);
  const anyYes = g.questions.some((q) => q.id in answers.yes);
  return (
    <fieldset className="mb-4 border-t-2 border-ink pt-2">
      <legend className="display float-left mb-1 w-full text-[17px] font-semibold">{g.name}</legend>
      {g.questions.map((q) => {
        const yes = q.id in answers.yes;
        const tick = (side: "left" | "right" | "both" | undefined) => {
          const { [q.id]: _, ...rest } = answers.yes;
          set({
            yes: side ? { ...rest, [q.id]: side } : rest,
            none: answers.none.filter((n) => n !== g.name),
          });
        };
        return (
          <div key={q.id} className="clear-both border-b border-rule py-1.5">
            <label className="flex items-start gap-2 text-[14px] leading-snug">
              <input
                type="checkbox"
                className="mt-0.5 size-4.5 shrink-0 accent-[var(--ink)]"
                checked={yes}
                onChange={(e) => tick(e.target.checked ? "both" : undefined)}
              />
              <span className={yes ? "font-semibold text-clay" : ""}>{q.text}</span>
            </label>
            {yes && q.side && (
              <p className="mt-1 ml-7 flex gap-2">
                {(["left", "right", "both"] as const).map((side) => (
                  <button
                    key={side}
                    type="button"
                    aria-pressed={answers.yes[q.id] === side}
                    className={`btn min-h-8 px-2 ${answers.yes[q.id] === side ? "outline-3 outline-ink" : ""}`}
                    onClick={() => tick(side)}
                  >
                    <SideName side={side} />
                  </button>
                ))}
              </p>
            )}
          </div>
        );
      })}
      <label className={`flex min-h-9 items-center gap-2 ${none ? "font-semibold text-pine" : ""}`}>
        <input
          type="checkbox"
          className="size-4.5 accent-[var(--ink)]"
          disabled={anyYes}
          checked={none && !anyYes}
          onChange={(e) =>
            set({
              ...answers,
              none: e.target.checked ? [...answers.none, g.name] : answers.none.filter((n) => n !== g.name),
            })
          }
        />
        none of these
        <span className="sr-only"> in {g.name}</span>
      </label>
    </fieldset>
  );
}
