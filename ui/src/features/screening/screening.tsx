import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useEffect, useRef, useState } from "react";
import { Link, useParams } from "react-router";
import type { Schema } from "../../api/client";
import { useOrigins, useScreening, useTests } from "../../api/hooks";
import { weekDay } from "../../parts/dates";
import { useKeys } from "../../parts/keys";
import { SideName } from "../../parts/marks";
import { RunnerHead } from "../../parts/runnerhead";
import { Failed, Loading } from "../../parts/states";
import { Tick } from "../../parts/tick";
import { setInches, useInches } from "../../parts/units";
import { ConditionsRow } from "./conditions";
import { Correct, Finish } from "./finish";
import { FlagBanner } from "./flags";
import { Outcome } from "./outcome";
import { TestRow } from "./row";
import { firstStation, StationCount } from "./stationcount";
import { TalkStation } from "./talk";
import { useTrials } from "./trials";

export type Test = Schema["ScreeningTest"];

export type Trials = ReturnType<typeof useTrials>;

export function ScreeningView() {
  const { id = "" } = useParams();
  const s = useScreening(id);
  const tests = useTests();
  if (s.isPending || tests.isPending) return <Loading what={t`the screening`} />;
  if (s.error) return <Failed error={s.error} retry={() => void s.refetch()} />;
  if (tests.error) return <Failed error={tests.error} retry={() => void tests.refetch()} />;
  return <Spine key={id} screening={s.data} tests={tests.data.items} />;
}

function Spine({ screening: s, tests }: { screening: Schema["Screening"]; tests: Test[] }) {
  const [correcting, setCorrecting] = useState("");
  const [quick, setQuick] = useState(localStorage.getItem("quick") === "yes");
  const [aid, setAid] = useState("");
  const inch = useInches();
  const trials = useTrials(s, tests, correcting);
  const origins = useOrigins(s.id);
  const locked = s.finished && !correcting;
  const stations = [t`Talk`, ...new Set(tests.map((test) => test.station)), t`Findings`];
  const [station, setStation] = useState(() => firstStation(s, tests));
  const go = (name: string | undefined) => {
    if (!name) return;
    setStation(name);
    setAid("");
  };
  // A new station starts at its top, for the eye and for the keyboard.
  const opened = useRef(station);
  useEffect(() => {
    if (opened.current === station) return;
    opened.current = station;
    window.scrollTo(0, 0);
    document.getElementById("station")?.focus({ preventScroll: true });
  }, [station]);
  const turn = (by: number) => {
    setStation((was) => stations[stations.indexOf(was) + by] ?? was);
    setAid("");
  };
  useKeys([
    {
      show: t`PgDn PgUp`,
      does: t`the next or the last station`,
      typing: true,
      on: { PageDown: () => turn(1), PageUp: () => turn(-1) },
    },
    { show: "Enter", does: t`next trial` },
    { show: "↑ ↓", does: t`the same trial of the test above or below` },
    { show: "← →", does: t`the trial beside, from the edge of the field` },
    { show: "c", does: t`compensations, sharp pain, block` },
  ]);
  const shown = tests.filter((test) => test.station === station && (!quick || test.quick));
  const next = stations[stations.indexOf(station) + 1];
  const emergency = s.flags.some((f) => !f.cleared && f.level === "emergency");
  return (
    <>
      <RunnerHead
        id={s.runnerId}
        name={s.runnerName}
        here="screenings"
        slim
        quiet
        page={
          <Trans>
            Screening, {weekDay(s.on)}
            <span className="text-[15px] font-normal text-ink-2">
              {s.footwear ? ` · ${s.footwear}` : ""} ·{" "}
              <span role="status">
                {trials.offline
                  ? t`no connection, kept here and sent again`
                  : trials.waiting > 0
                    ? t`saving…`
                    : s.finished
                      ? s.imported
                        ? t`finished elsewhere, imported`
                        : t`finished`
                      : t`saved`}
              </span>
            </span>
          </Trans>
        }
      >
        <p className="flex flex-wrap items-center gap-x-3 text-[14px] text-ink-2">
          <Link className="btn-quiet" to={`/screenings/${s.id}/clips`}>
            {t`Clips of this screening`}
          </Link>
          <Tick
            label={t`quick`}
            on={quick}
            onChange={(on) => {
              localStorage.setItem("quick", on ? "yes" : "no");
              setQuick(on);
            }}
          />
          <button type="button" className="btn-quiet" onClick={() => setInches(!inch)}>
            {inch ? t`inches` : t`cm`}
          </button>
          <span className="hidden lg:inline">
            <Trans>
              <kbd className="key">Enter</kbd> next trial <kbd className="key">?</kbd> all keys
            </Trans>
          </span>
        </p>
      </RunnerHead>
      <FlagBanner s={s} />
      <nav aria-label={t`Stations`} className="mb-4 flex flex-wrap gap-x-4 border-b-2 border-ink">
        {stations.map((name) => (
          <button
            key={name}
            type="button"
            aria-current={name === station ? "step" : undefined}
            onClick={() => go(name)}
            className={`-mb-0.5 border-b-4 px-1 py-1.5 ${name === station ? "border-ink font-semibold" : "border-transparent text-ink-2 hover:text-ink"}`}
          >
            {name}
            <StationCount
              name={name}
              s={s}
              tests={tests.filter((test) => test.station === name && (!quick || test.quick))}
            />
          </button>
        ))}
      </nav>
      <div id="station" tabIndex={-1} className="outline-none" />
      <Correct finished={s.finished} value={correcting} set={setCorrecting} />
      {station === "Talk" && <TalkStation s={s} locked={locked} reason={correcting} />}
      {station === "Findings" && <Outcome s={s} tests={tests} />}
      {shown.length > 0 && (
        <section aria-label={station} className="mb-5 border-t-2 border-ink">
          {(station === "Run" || station === "Balance and reach") && (
            <ConditionsRow
              key={s.revisions.conditions ?? 0}
              s={s}
              station={station}
              locked={locked}
              reason={correcting}
            />
          )}
          <div className="grid grid-cols-2 border-b border-rule md:grid-cols-[minmax(0,1fr)_15.5rem_minmax(0,1fr)]">
            <p className="px-3 py-1.5 md:flex md:justify-end">
              <SideName side="left" />
            </p>
            <h2 className="order-first col-span-2 border-ink bg-paper py-1 text-center text-[16px] md:order-none md:col-span-1 md:border-x-2">
              {station}
            </h2>
            <p className="flex justify-end px-3 py-1.5 md:justify-start">
              <SideName side="right" />
            </p>
          </div>
          {shown.map((it) => (
            <TestRow
              key={it.id}
              test={it}
              screening={s}
              trials={trials}
              origins={origins.filter((o) => o.test === it.id)}
              locked={locked || emergency}
              aid={aid}
              setAid={setAid}
            />
          ))}
        </section>
      )}
      {station !== "Talk" && station !== "Findings" && shown.length === 0 && (
        <p className="py-6 text-ink-2">{t`Nothing of this station belongs to the quick screening.`}</p>
      )}
      {station === "Findings" ? (
        <Finish screening={s} trials={trials} />
      ) : (
        <div className="mt-4 mb-24 flex gap-3">
          <button id="finish" type="button" className="btn btn-main" onClick={() => go(next)}>
            {t`Next: ${next ?? ""}`}
          </button>
          <Link className="btn" to={`/runners/${s.runnerId}`}>
            {t`Leave it open`}
          </Link>
        </div>
      )}
    </>
  );
}
