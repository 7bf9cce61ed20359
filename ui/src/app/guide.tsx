import { Link } from "react-router";
import type { Schema } from "../api/client";
import { useBench } from "../api/hooks";
import type { Guide } from "./guided";

type Item = Schema["BenchItem"];

const steps: { title: string; text: string; to: (i: Item) => string; go: string }[] = [
  {
    title: "Who needs you",
    text: "The bench puts first what can't wait, then what waits for your word. Each row has one button: the next step.",
    to: () => "/",
    go: "To the bench",
  },
  {
    title: "One runner",
    text: "Now shows what stands, where it hurts, every ladder with its last decision, and eight weeks of mornings and kilometres.",
    to: (i) => `/runners/${i.id}`,
    go: "Open a runner",
  },
  {
    title: "What was measured",
    text: "A screening puts left on the left and right on the right, with the margin drawn. What limits the runner stands below, with its reasons.",
    to: (i) => `/runners/${i.id}/screenings`,
    go: "See the screenings",
  },
  {
    title: "The plan",
    text: "The block says what stands on which day, where every peg stands, and why. You can move, swap or leave out anything; it tells you what that breaks.",
    to: (i) => `/runners/${i.id}/block`,
    go: "See the plan",
  },
  {
    title: "The week's review",
    text: "Once a week you read what was reported and accept or override each step up. Steps back have applied already. Then add a runner of your own.",
    to: (i) => `/review/${i.id}`,
    go: "Review a week",
  },
];

export function GuideStrip({ guide }: { guide: Guide }) {
  const step = steps[guide.at];
  const list = useBench("");
  const all = list.data?.pages[0]?.items ?? [];
  const shown =
    all.find((i) => i.blockWeek && i.group === "review") ?? all.find((i) => i.blockWeek) ?? all[0];
  if (!step || !shown) return null;
  return (
    <section
      aria-label="Guided start"
      className="mb-4 flex flex-wrap items-center gap-x-4 gap-y-2 border-l-4 border-ink bg-paper px-4 py-2 print:hidden"
    >
      <p className="mr-auto max-w-3xl min-w-0">
        <span className="text-ink-2">
          {guide.at + 1} of {steps.length}
        </span>{" "}
        <b>{step.title}.</b> {step.text}
      </p>
      <Link className="btn min-h-9" to={step.to(shown)}>
        {step.go}
      </Link>
      {guide.at + 1 < steps.length ? (
        <button type="button" className="btn min-h-9" onClick={() => guide.set(guide.at + 1)}>
          Next
        </button>
      ) : (
        <Link className="btn min-h-9" to="/runners/new" onClick={guide.end}>
          Add a runner
        </Link>
      )}
      <button type="button" className="btn-quiet" onClick={guide.end}>
        Dismiss
      </button>
    </section>
  );
}
