import { Trans } from "@lingui/react/macro";
import type { Schema } from "../../api/client";
import { SideName } from "../../parts/marks";
import { Tick, withOrWithout } from "../../parts/tick";

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
            <Tick
              className="flex items-start gap-2 text-[14px] leading-snug"
              label={<span className={yes ? "font-semibold text-clay" : ""}>{q.text}</span>}
              on={yes}
              onChange={(on) => tick(on ? "both" : undefined)}
            />
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
      <Tick
        className={`flex min-h-9 items-center gap-2 ${none ? "font-semibold text-pine" : ""}`}
        label={
          <Trans>
            none of these<span className="sr-only"> in {g.name}</span>
          </Trans>
        }
        disabled={anyYes}
        on={none && !anyYes}
        onChange={(on) => set({ ...answers, none: withOrWithout(answers.none, g.name, on) })}
      />
    </fieldset>
  );
}
