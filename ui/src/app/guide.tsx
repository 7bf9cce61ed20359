import { t } from "@lingui/core/macro";
import { Link } from "react-router";
import type { Schema } from "../api/client";
import { useBench } from "../api/hooks";
import type { Guide } from "./guided";

type Item = Schema["BenchItem"];

const steps: { title: string; text: string; to: (i: Item) => string; go: string }[] = [
  {
    title: t`Who needs you`,
    text: t`The bench puts first what can't wait, then what waits for your word. Each row has one button: the next step.`,
    to: () => "/",
    go: t`To the bench`,
  },
  {
    title: t`One runner`,
    text: t`Now shows what stands, where it hurts, every ladder with its last decision, and eight weeks of mornings and kilometres.`,
    to: (i) => `/runners/${i.id}`,
    go: t`Open a runner`,
  },
  {
    title: t`What was measured`,
    text: t`A screening puts left on the left and right on the right, with the margin drawn. What limits the runner stands below, with its reasons.`,
    to: (i) => `/runners/${i.id}/screenings`,
    go: t`See the screenings`,
  },
  {
    title: t`The plan`,
    text: t`The block says what stands on which day, where every peg stands, and why. You can move, swap or leave out anything; it tells you what that breaks.`,
    to: (i) => `/runners/${i.id}/block`,
    go: t`See the plan`,
  },
  {
    title: t`The week's review`,
    text: t`Once a week you read what was reported and accept or override each step up. Steps back have applied already. Then add a runner of your own.`,
    to: (i) => `/review/${i.id}`,
    go: t`Review a week`,
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
      aria-label={t`Guided start`}
      className="mb-4 flex flex-wrap items-center gap-x-4 gap-y-2 border-l-4 border-ink bg-paper px-4 py-2 print:hidden"
    >
      <p className="mr-auto max-w-3xl min-w-0">
        <span className="text-ink-2">{t`${guide.at + 1} of ${steps.length}`}</span> <b>{step.title}.</b>{" "}
        {step.text}
      </p>
      <Link className="btn min-h-9" to={step.to(shown)}>
        {step.go}
      </Link>
      {guide.at + 1 < steps.length ? (
        <button type="button" className="btn min-h-9" onClick={() => guide.set(guide.at + 1)}>
          {t`Next`}
        </button>
      ) : (
        <Link className="btn min-h-9" to="/runners/new" onClick={guide.end}>
          {t`Add a runner`}
        </Link>
      )}
      <button type="button" className="btn-quiet" onClick={guide.end}>
        {t`Dismiss`}
      </button>
    </section>
  );
}
