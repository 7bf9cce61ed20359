import { t } from "@lingui/core/macro";
import { useState } from "react";
import { Link, useParams } from "react-router";
import type { Schema } from "../../api/client";
import { useRunner, useScreenings, useTests } from "../../api/hooks";
import { weekDay } from "../../parts/dates";
import { SideName } from "../../parts/marks";
import { RunnerHead } from "../../parts/runnerhead";
import { SideNumber, SideScale } from "../../parts/spine";
import { Empty, Failed, Loading } from "../../parts/states";
import { Tick, withOrWithout } from "../../parts/tick";

type Screening = Schema["Screening"];

/** Visits side by side on the spine, with what changed beyond noise. */
export function CompareView() {
  const { id = "" } = useParams();
  const runner = useRunner(id);
  const list = useScreenings(id);
  const tests = useTests();
  const [off, setOff] = useState<string[]>([]);
  const broken = [runner, list, tests].find((q) => q.error);
  if (broken?.error) return <Failed error={broken.error} />;
  if (!runner.data || !list.data || !tests.data) return <Loading what={t`the screenings`} />;
  const visits = list.data.items.filter((s) => s.finished);
  if (visits.length < 2)
    return (
      <Empty title={t`Two finished screenings are needed`}>
        <Link className="btn mt-2" to={`/runners/${id}`}>
          {t`To the runner`}
        </Link>
      </Empty>
    );
  const shown = visits.filter((v) => !off.includes(v.id));
  const rows = tests.data.items.filter(
    (item) => item.unit !== "class" && shown.some((v) => result(v, item.id)?.left.value !== undefined),
  );
  return (
    <>
      <RunnerHead
        id={id}
        name={runner.data.name}
        here="screenings"
        page={t`Visits side by side, newest first`}
        slim
      >
        <div className="flex flex-wrap gap-x-4">
          {visits.map((v) => (
            <Tick
              key={v.id}
              label={weekDay(v.on)}
              on={!off.includes(v.id)}
              onChange={(on) => setOff(withOrWithout(off, v.id, !on))}
            />
          ))}
        </div>
      </RunnerHead>
      <div className="grid grid-cols-2 border-y-2 border-ink md:grid-cols-[minmax(0,1fr)_13rem_minmax(0,1fr)]">
        <p className="px-3 py-1.5 md:flex md:justify-end">
          <SideName side="left" />
        </p>
        <p className="hidden border-x-2 border-ink bg-paper md:block" />
        <p className="flex justify-end px-3 py-1.5 md:justify-start">
          <SideName side="right" />
        </p>
      </div>
      {rows.map((row) => (
        <section
          key={row.id}
          aria-label={row.name}
          className="grid grid-cols-2 border-b border-rule md:grid-cols-[minmax(0,1fr)_13rem_minmax(0,1fr)]"
        >
          <SideColumn t={row} side="left" visits={shown} />
          <div className="order-first col-span-2 flex flex-col justify-center border-ink bg-paper px-3 py-2 text-center md:order-none md:col-span-1 md:border-x-2">
            <h2 className="text-[17px]">{row.name}</h2>
            {row.noise && (
              <p className="text-[13px] text-ink-2">
                {t`change counts from ${mdc(shown, row.id)} ${row.unit}`}
              </p>
            )}
          </div>
          <SideColumn t={row} side="right" visits={shown} />
        </section>
      ))}
    </>
  );
}

const result = (v: Screening, test: string) => v.results.find((r) => r.test === test);

/** The smallest change that counts, as the server computed it. */
function mdc(visits: Screening[], test: string) {
  for (const v of visits) {
    const m = result(v, test)?.since?.left.mdc95 ?? result(v, test)?.asymmetry.mdc95;
    if (m !== undefined) return m.toFixed(1);
  }
  return "–";
}

function SideColumn({
  t: it,
  side,
  visits,
}: {
  t: Schema["ScreeningTest"];
  side: "left" | "right";
  visits: Screening[];
}) {
  if (!it.sided && side === "right") return <div />;
  return (
    <div className="px-3 py-2">
      {visits.map((v) => {
        const r = result(v, it.id);
        if (!r) return null;
        const sum = side === "left" ? r.left : r.right;
        const said = side === "left" ? r.since?.say.left : r.since?.say.right;
        const was = side === "left" ? r.since?.was.left.value : r.since?.was.right.value;
        const drawn = { ...sum, side: it.sided ? side : ("both" as const) };
        return (
          <div
            key={v.id}
            className={`flex items-start gap-3 py-1 ${side === "right" ? "flex-row-reverse" : ""}`}
          >
            <div className="w-28 shrink-0">
              <p className={`text-[13px] text-ink-2 ${side === "right" ? "text-right" : ""}`}>
                {weekDay(v.on)}
              </p>
              <SideNumber test={it} summary={drawn} />
              {said && (
                <p className={`text-[13px] font-semibold ${side === "right" ? "text-right" : ""}`}>{said}</p>
              )}
            </div>
            <div className="hidden min-w-0 grow sm:block">
              <SideScale
                test={it}
                summary={drawn}
                values={sum.value === undefined ? [] : [{ value: sum.value, counts: true }]}
                before={was}
              />
            </div>
          </div>
        );
      })}
    </div>
  );
}
