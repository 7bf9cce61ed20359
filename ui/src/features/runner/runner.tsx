import { t } from "@lingui/core/macro";
import { Link, useParams } from "react-router";
import { useBlock } from "../../api/hooks";
import { CarePage } from "../../parts/care";
import { RunnerHead, useBar } from "../../parts/runnerhead";
import { Failed, Loading } from "../../parts/states";
import { Words } from "../block/nexts";
import { Asks } from "../block/paused";
import { Caps, FlagList } from "../block/state";
import { useLoad } from "../running/hooks";
import { EightWeeks } from "./eight";
import { FirstSteps, Hurts, Ladders, NextDates } from "./now";

/** How a runner stands now, on one page. */
export function RunnerView() {
  const { id = "" } = useParams();
  const bar = useBar(id);
  const block = useBlock(id);
  const load = useLoad(id, 8);
  const broken = [bar, block].find((q) => q.error);
  if (broken?.error) return <Failed error={broken.error} retry={() => void broken.refetch()} />;
  if (!bar.data || block.data === undefined) return <Loading what={t`the runner`} />;
  const b = block.data ?? undefined;
  const ran = load.data?.weeks.some((w) => w.runs > 0);
  return (
    <>
      <RunnerHead id={id} name={bar.data.name} here="now" quiet={!!b} />
      {b?.care && <CarePage care={b.care} />}
      {b && <Asks list={b.asks} runner={id} />}
      {b && !b.care && <FlagList b={b} />}
      {b && !b.care && <Caps b={b} />}
      {b && <Words b={b} />}
      {!b && <FirstSteps bar={bar.data} />}
      {load.data && (ran || b) && !(b && b.caps.length > 0) && (
        <p className="mb-4">
          <b>{load.data.adviceText}</b>{" "}
          <span className="text-ink-2">{t`Because ${load.data.adviceWhy}.`}</span>{" "}
          {load.data.warning && <b className="text-clay">▲ {load.data.warning}</b>}
        </p>
      )}
      <div className={b || ran ? "grid gap-x-9 lg:grid-cols-[16.5rem_minmax(0,1fr)]" : ""}>
        <div className="grid min-w-0 gap-x-9 md:grid-cols-2 lg:block">
          {(b || bar.data.lastScreening || bar.data.hurts.length > 0) && <Hurts bar={bar.data} block={b} />}
          {b && !b.care && !b.ended && <NextDates b={b} />}
          {bar.data.heard > 0 && (
            <p className="mb-6">
              <Link className="btn" to={`/runners/${id}/journal`}>
                {t`${bar.data.heard} new from the phone`}
              </Link>
            </p>
          )}
        </div>
        <div className="min-w-0">
          {b && !b.care && <Ladders b={b} />}
          {load.data && (ran || b) && <EightWeeks v={load.data} />}
        </div>
      </div>
    </>
  );
}
