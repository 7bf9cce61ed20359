import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";
import { Link } from "react-router";
import { weekDay } from "../../parts/dates";
import { useKeys } from "../../parts/keys";
import { SideName, Title } from "../../parts/marks";
import { Sideways } from "../../parts/sideways";
import { Slide } from "../../parts/slide";
import { Empty } from "../../parts/states";
import { Tick } from "../../parts/tick";
import type { Beside } from "./beside";
import { seekTo } from "./frames";
import { Locks } from "./locks";
import { frameOf, Screen } from "./screen";
import type { Clip } from "./upload";

export type Foot = "left" | "right";

export type Kind = "contact" | "toe-off";

/** The times of a clip's events of one kind, s of the file, in order. */
function eventsOf(c: Clip, foot: Foot, kind: Kind): number[] {
  const rate = c.marks.rate || 30;
  return c.marks.events
    .filter((e) => e.foot === foot && e.kind === kind)
    .map((e) => seekTo(c.times, rate, e.frame))
    .sort((a, b) => a - b);
}

export function Both({ b }: { b: Beside }) {
  const seen = [b.older, b.newer].every((c) => c.kind !== "markers");
  const head = (c: Clip) => (b.older.on === b.newer.on ? c.name : weekDay(c.on));
  return (
    <>
      {seen ? <Screens older={b.older} newer={b.newer} /> : null}
      <section aria-label={t`Differences`} className="mt-6">
        <Title
          aside={t`${head(b.newer)} less ${head(b.older)}; less than the smallest real change is no change`}
        >
          {t`Differences`}
        </Title>
        {b.differences.length === 0 ? (
          <Empty
            title={t`No measure in both clips`}
          >{t`Mark the same moment or the events in both clips.`}</Empty>
        ) : (
          <Sideways label={t`Differences`}>
            <table className="w-full text-left">
              <thead>
                <tr className="border-b-2 border-ink">
                  <th className="py-1.5 pr-4">{t`Measure`}</th>
                  <th className="py-1.5 pr-4 text-right">{head(b.older)}</th>
                  <th className="py-1.5 pr-4 text-right">{head(b.newer)}</th>
                  <th className="py-1.5 pr-4 text-right">{t`Difference`}</th>
                  <th className="py-1.5 pr-4 text-right">{t`Noise, ±`}</th>
                  <th className="py-1.5">{t`Verdict`}</th>
                </tr>
              </thead>
              <tbody>
                {b.differences.map((d) => (
                  <tr key={`${d.measure}${d.side}${d.name}${d.older}`} className="border-b border-rule">
                    <th scope="row" className="py-1.5 pr-4 font-normal">
                      {d.name} {d.side !== "both" && <SideName side={d.side} />}
                    </th>
                    <td className="py-1.5 pr-4 text-right">{shown(d.older, d.unit)}</td>
                    <td className="py-1.5 pr-4 text-right">{shown(d.newer, d.unit)}</td>
                    <td className="py-1.5 pr-4 text-right font-semibold">
                      {d.by > 0 ? "+" : ""}
                      {shown(d.by, d.unit)}
                    </td>
                    <td className="py-1.5 pr-4 text-right text-ink-2">{d.within.toFixed(1)}</td>
                    <td className="py-1.5">
                      {d.real ? <b>{d.change || t`changed`}</b> : t`no real change`}
                      <span className="block text-[13px] text-ink-2">{d.basis}</span>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </Sideways>
        )}
      </section>
    </>
  );
}

const shown = (v: number, unit: string) =>
  `${v.toFixed(unit === "ms" || unit === "spm" ? 0 : 1)}${unit === "°" ? "°" : ` ${unit}`}`;

function Screens({ older, newer }: { older: Clip; newer: Clip }) {
  const stills = older.kind === "photo" || newer.kind === "photo";
  const [foot, setFoot] = useState<Foot>("right");
  const [kind, setKind] = useState<Kind>("contact");
  const [step, setStep] = useState(0);
  const [offset, setOffset] = useState(0); // ms of real time after the event
  const [over, setOver] = useState(false);
  const [through, setThrough] = useState(50);
  const lists = [eventsOf(older, foot, kind), eventsOf(newer, foot, kind)];
  const least = Math.min(...lists.map((l) => l.length));
  const n = Math.min(step, Math.max(0, least - 1));
  const by = Math.max(1, Math.round(1000 * Math.max(frameOf(older), frameOf(newer))));
  const mine = (fn: () => void) => (e: KeyboardEvent) => {
    if (e.target instanceof HTMLElement && e.target.closest("[role=slider]")) return false;
    fn();
  };
  useKeys(
    [
      {
        show: "← →",
        does: t`both a frame back, a frame on`,
        on: { ArrowLeft: mine(() => setOffset(offset - by)), ArrowRight: mine(() => setOffset(offset + by)) },
      },
      {
        show: t`PgUp PgDn`,
        does: t`the step before, the next step`,
        on: {
          PageUp: mine(() => setStep(Math.max(0, n - 1))),
          PageDown: mine(() => setStep(Math.min(least - 1, n + 1))),
        },
      },
      { show: "Home", does: t`to the event`, on: { Home: mine(() => setOffset(0)) } },
    ],
    { when: !stills },
  );
  const at = (c: Clip, list: number[]) => {
    const time = list[n];
    return time === undefined ? undefined : Math.max(0, time + (offset / 1000) * (c.marks.slow || 1));
  };
  return (
    <section aria-label={t`Both clips`}>
      {!stills && (
        <Locks
          foot={foot}
          setFoot={setFoot}
          kind={kind}
          setKind={setKind}
          n={n}
          of={least}
          setStep={setStep}
          offset={offset}
          setOffset={setOffset}
          by={by}
        />
      )}
      {!stills && least === 0 && (
        <p role="alert" className="mb-3 font-semibold">
          <Trans>
            {lists[0]?.length === 0 ? older.name : newer.name} has no {foot} {kind} marked.{" "}
            <Link className="underline" to={`/clips/${lists[0]?.length === 0 ? older.id : newer.id}`}>
              Mark it on the desk
            </Link>
            ; until then both show their first frame.
          </Trans>
        </p>
      )}
      <div className={over ? "relative mx-auto max-w-4xl" : "grid gap-4 md:grid-cols-2"}>
        <Screen c={older} second={at(older, lists[0] ?? [])} />
        <div
          className={over ? "absolute inset-0" : ""}
          style={over ? { opacity: through / 100 } : undefined}
          data-over={over || undefined}
        >
          <Screen c={newer} second={at(newer, lists[1] ?? [])} bare={over} />
        </div>
      </div>
      <div className="mt-3 flex flex-wrap items-center gap-6">
        <Tick label={t`over each other`} on={over} onChange={setOver} />
        {over && (
          <div className="w-64">
            <Slide
              label={t`How much of ${newer.name}`}
              value={through}
              min={0}
              max={100}
              step={5}
              unit="%"
              onChange={(v) => setThrough(v ?? 50)}
            />
          </div>
        )}
      </div>
    </section>
  );
}
