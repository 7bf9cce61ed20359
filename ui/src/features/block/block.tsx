import { t } from "@lingui/core/macro";
import { useCallback, useState } from "react";
import { Link, useParams } from "react-router";
import type { Schema } from "../../api/client";
import { useBlock } from "../../api/hooks";
import { CarePage } from "../../parts/care";
import { dayMonth } from "../../parts/dates";
import { useKeys } from "../../parts/keys";
import { Title } from "../../parts/marks";
import { RunnerHead } from "../../parts/runnerhead";
import { Empty, Failed, Loading } from "../../parts/states";
import { AddLadder } from "./addladder";
import { DaySide } from "./dayside";
import { LadderRow } from "./ladder";
import { MovePanel } from "./movepanel";
import { Nexts, Tried, Words } from "./nexts";
import { Out } from "./out";
import { Asks, Paused } from "./paused";
import { LeftOut, Minimum, Phases, Says } from "./planside";
import { Routines } from "./routines";
import { Auto, Caps, Changed, FlagList, Gates, Mornings } from "./state";
import { type Move, Weeks } from "./weeks";

export type Block = Schema["Block"];

export function BlockView() {
  const { id = "" } = useParams();
  const b = useBlock(id);
  useKeys([
    { show: "← →", does: t`read the notches of a rail` },
    { show: "Tab", does: t`to the next rail, decision or session` },
    { show: "m", does: t`pick a session up; arrows carry it, Enter puts it down` },
  ]);
  if (b.isPending) return <Loading what={t`the block`} />;
  if (b.error) return <Failed error={b.error} retry={() => void b.refetch()} />;
  if (!b.data)
    return (
      <Empty title={t`No block yet`}>
        <p>{t`A block is made from a finished screening.`}</p>
        <Link className="btn mt-3" to={`/runners/${id}`}>
          {t`To the runner`}
        </Link>
      </Empty>
    );
  return <Plan b={b.data} />;
}

function Plan({ b }: { b: Block }) {
  const [day, setDay] = useState(b.today > b.endOn || b.today < b.startOn ? b.startOn : b.today);
  const [move, setMove] = useState<Move | null>(null);
  const carried = useCallback((m: Move) => {
    setMove(m);
    setDay(m.to);
  }, []);
  const here = b.prescriptions.filter((p) => !p.leftOut && !p.routine);
  if (b.care)
    return (
      <>
        <RunnerHead id={b.runnerId} name={b.runnerName} here="plan" quiet />
        <CarePage care={b.care} />
        <p className="mb-3 text-ink-2">
          {t`The block is on hold; its sheet, calendar and days say the same. Note a clearance with the screening.`}
        </p>
        <div className="flex flex-wrap gap-3">
          <Link className="btn" to={`/screenings/${b.screeningId}`}>
            {t`Note a clearance`}
          </Link>
          <Link className="btn" to={`/runners/${b.runnerId}/log#day`}>
            {t`The day and its answers`}
          </Link>
          <Link className="btn" to={`/runners/${b.runnerId}/print`}>
            {t`The page on paper`}
          </Link>
        </div>
      </>
    );
  return (
    <>
      <RunnerHead
        id={b.runnerId}
        name={b.runnerName}
        here="plan"
        page={t`Block, ${dayMonth(b.startOn)} to ${dayMonth(b.endOn)}`}
        quiet
      >
        <Link className="btn" to={`/review/${b.runnerId}`}>
          {t`Review the week`}
        </Link>
        <Link className="btn" to={`/runners/${b.runnerId}/plan`}>
          {t`Plan again`}
        </Link>
        <Out b={b} />
      </RunnerHead>
      <Asks list={b.asks} runner={b.runnerId} />
      <FlagList b={b} />
      <Caps b={b} />
      <Paused list={b.paused} />
      <Words b={b} />
      <Nexts b={b} />
      <Tried b={b} />
      <div className="grid gap-x-8 gap-y-6 lg:grid-cols-[minmax(0,1fr)_19rem]">
        <div className="min-w-0">
          <Weeks b={b} day={day} onDay={setDay} onMove={carried} />
        </div>
        <div>
          {move && <MovePanel b={b} m={move} done={() => setMove(null)} />}
          <DaySide b={b} on={day} onMove={carried} />
        </div>
      </div>
      <section aria-label={t`Ladders`} className="mt-6 mb-6">
        <Title aside={t`a step up waits for you; a step back applies at once`}>{t`Ladders`}</Title>
        {here.map((p) => (
          <LadderRow key={p.id} p={p} b={b} />
        ))}
        <div className="flex flex-wrap items-center gap-x-6">
          <AddLadder b={b} />
          <Auto b={b} />
        </div>
      </section>
      <Routines b={b} />
      <div className="grid gap-x-8 gap-y-6 lg:grid-cols-[minmax(0,1fr)_19rem]">
        <div className="min-w-0">
          <Phases phases={b.phases} moved={b.phaseMoved} since={b.phaseSince} />
          <Changed b={b} />
        </div>
        <div>
          <Mornings b={b} />
          <Gates b={b} />
        </div>
      </div>
      <details className="mt-4 border-t-2 border-ink pt-2">
        <summary className="min-h-8">
          <b>{t`Notes on the plan`}</b>{" "}
          <span className="text-ink-2">
            {t`what was considered but not included, five minutes a day, cautions`}
          </span>
        </summary>
        <div className="mt-3">
          <LeftOut left={b.left} />
          <Minimum minimum={b.minimum} />
          <Says says={b.says} cautions={b.cautions} />
        </div>
      </details>
    </>
  );
}
