import { t } from "@lingui/core/macro";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { Problem, type Schema } from "../../api/client";
import { useDraft } from "../../api/hooks";
import { useKeys } from "../../parts/keys";
import { RunnerHead } from "../../parts/runnerhead";
import { Empty, Failed, Loading } from "../../parts/states";
import { usePreview, useWishes, type Wishes } from "./hooks";
import { PlanBody } from "./planbody";
import { Verdict } from "./verdict";
import { WishesForm } from "./wishes";

export type Choice = Schema["ChoiceView"];

/** The plan desk: the runner's week on the left, the block it makes on the right. */
export function PlanDesk() {
  const { id = "" } = useParams();
  const w = useWishes(id);
  if (w.isPending) return <Loading what={t`the plan`} />;
  if (w.error) return <Failed error={w.error} retry={() => void w.refetch()} />;
  return <Desk key={w.data.rev} id={id} v={w.data} />;
}

function Desk({ id, v }: { id: string; v: Schema["WishesView"] }) {
  const draft = useDraft<Wishes>(`wishes:${id}:${v.rev}`, v.wishes);
  const [startOn, setStartOn] = useState("");
  const { plan, error } = usePreview(id, draft.value, startOn);
  useKeys([{ show: "Tab", does: t`from the week to the plan` }]);
  const bad = error instanceof Problem ? error.fields : {};
  const refused = error instanceof Problem && Object.keys(bad).length === 0;
  if (refused && !plan)
    return (
      <>
        <RunnerHead id={id} here="plan" page={t`Plan a block`} />
        <Empty title={t`No plan yet`}>
          <p>{error.message}</p>
        </Empty>
      </>
    );
  if (!plan) return error ? <Failed error={error} /> : <Loading what={t`the plan`} />;
  const set = (part: Partial<Wishes>) => draft.set({ ...draft.value, ...part });
  const changed = JSON.stringify(draft.value) !== JSON.stringify(v.wishes);
  return (
    <>
      <RunnerHead id={id} name={plan.runnerName} here="plan" page={t`Plan a block`}>
        <Link className="btn" to={`/runners/${id}/schools`}>
          {t`Compare schools`}
        </Link>
      </RunnerHead>
      <div className="grid gap-x-9 gap-y-8 lg:grid-cols-[22rem_minmax(0,1fr)]">
        <section aria-label={t`Week and wishes`} className="lg:border-r lg:border-rule lg:pr-7">
          <WishesForm
            v={v}
            w={draft.value}
            set={set}
            bad={bad}
            kmNow={Math.round((plan.weeks[0]?.running.meanMetres ?? 0) / 1000)}
          />
        </section>
        <section aria-label={t`The plan`} className="min-w-0">
          <Verdict
            id={id}
            v={v}
            plan={plan}
            wishes={draft.value}
            changed={changed}
            startOn={startOn}
            setStartOn={setStartOn}
            drop={draft.done}
            reset={() => {
              draft.set(v.wishes);
              draft.done();
            }}
            error={error}
            set={set}
          />
          <PlanBody plan={plan} />
        </section>
      </div>
    </>
  );
}
