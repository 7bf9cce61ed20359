import { t } from "@lingui/core/macro";
import { useState } from "react";
import { useParams } from "react-router";
import { useRunner } from "../../api/hooks";
import { useKeys } from "../../parts/keys";
import { RunnerHead } from "../../parts/runnerhead";
import { Failed, Loading } from "../../parts/states";
import { Allows } from "./allows";
import { Bring } from "./bring";
import { Dynamics } from "./dynamics";
import { useLoad, useRuns } from "./hooks";
import { RunTable } from "./table";
import { Timeline } from "./timeline";
import { TypeRun } from "./typed";
import { WeekTable } from "./weeks";

/** A runner's running: what comes in, what it adds up to, what it allows. */
export function RunsView() {
  const { id = "" } = useParams();
  const runner = useRunner(id);
  const runs = useRuns(id);
  const [weeks, setWeeks] = useState(8);
  const load = useLoad(id, weeks);
  const [place, setPlace] = useState<HTMLElement | null>(null);
  useKeys([{ show: "← →", does: t`read a day of the time axis` }]);
  const broken = [runner, runs, load].find((q) => q.error);
  if (broken?.error) return <Failed error={broken.error} retry={() => void broken.refetch()} />;
  if (!runner.data || !runs.data || !load.data) return <Loading what={t`the runs`} />;
  const v = load.data;
  return (
    <>
      <RunnerHead id={id} name={runner.data.name} here="running" page={t`Running, by week and day`}>
        <label className="flex items-center gap-2 text-[14px]">
          {t`weeks`}
          <select
            className="field min-h-9 w-auto py-1"
            value={weeks}
            onChange={(e) => setWeeks(Number(e.target.value))}
          >
            {[4, 8, 12, 26, 52].map((w) => (
              <option key={w}>{w}</option>
            ))}
          </select>
        </label>
        <a className="btn" href={`/api/runners/${id}/runs/files/csv`} download>
          {t`CSV`}
        </a>
        <a className="btn" href={`/api/runners/${id}/runs/files/gpx`} download>
          {t`GPX`}
        </a>
        <a className="btn" href={`/api/runners/${id}/runs/files/tcx`} download>
          {t`TCX`}
        </a>
      </RunnerHead>
      <Allows v={v} id={id} />
      <Timeline v={v} />
      <div ref={setPlace} />
      <div className="grid gap-x-9 gap-y-6 lg:grid-cols-[minmax(0,1fr)_22rem]">
        <div className="min-w-0">
          <WeekTable v={v} />
          <Dynamics id={id} />
          <RunTable id={id} runs={runs.data.items} />
        </div>
        <div className="min-w-0">
          <Bring id={id} place={place} />
          <TypeRun id={id} today={v.today} />
        </div>
      </div>
    </>
  );
}
