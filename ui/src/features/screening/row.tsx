import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";
import type { Schema } from "../../api/client";
import { dayMonth } from "../../parts/dates";
import { Drawing } from "../../parts/picture";
import { SideNumber, SideScale } from "../../parts/spine";
import { Aids } from "./aids";
import { Cell, struckSlot } from "./cell";
import { ClassCell } from "./classcell";
import { EyePair } from "./eye";
import type { Test, Trials } from "./screening";
import { type Entry, keyOf, type Place } from "./trials";
import { closedBy, Why } from "./verdict";

export function TestRow({
  test,
  screening,
  trials,
  origins,
  locked,
  aid,
  setAid,
}: {
  test: Test;
  screening: Schema["Screening"];
  trials: Trials;
  origins: readonly Schema["TrialOrigin"][];
  locked: boolean;
  aid: string;
  setAid: (aid: string) => void;
}) {
  const stored = screening.results.find((r) => r.test === test.id);
  const r = trials.live[test.id] ?? stored;
  const [again, setAgain] = useState(!!stored?.after);
  if (!r) return null;
  const since = stored?.since;
  const shut = closedBy(test, screening);
  const filled = (place: Place, n: number) => {
    const e = trials.entries[keyOf(test.id, place, n)];
    return !!e && (e.text !== "" || !!e.block || e.sharp);
  };
  const side = (place: Place, sum: Schema["ScreeningSideSummary"]) => {
    const slotsOf = (from: number, least: number, most: number) => {
      const used = Array.from({ length: most }, (_, i) => from + i).filter((n) => filled(place, n));
      return Array.from(
        { length: Math.min(most, Math.max(least, ...used.map((n) => n - from + 1))) },
        (_, i) => from + i,
      );
    };
    const slots = slotsOf(
      1,
      Math.max(test.trials, sum.takeMore ? sum.n + sum.kept + 1 : 0),
      screening.slots.most,
    );
    const values = sum.values.flatMap((value, i) =>
      typeof value === "number" ? [{ value, counts: sum.counts[i] ?? true }] : [],
    );
    const was = place === "right" ? since?.was.right.value : since?.was.left.value;
    const said = place === "right" ? since?.say.right : since?.say.left;
    const saidAfter = place === "right" ? stored?.afterSay?.right : stored?.afterSay?.left;
    const cells = (list: number[]) => (
      <div className={`mt-1 flex flex-wrap gap-1.5 ${place === "left" ? "md:justify-end" : ""}`}>
        {list.map((slot) => (
          <Cell
            key={slot}
            after={screening.slots.after}
            test={test}
            side={place}
            slot={slot}
            trials={trials}
            locked={locked || !!shut}
            struck={struckSlot(test, trials, place, slot)}
          />
        ))}
      </div>
    );
    return (
      <div className={`min-w-0 px-3 py-2 ${place === "both" ? "col-span-2 md:col-span-1" : ""}`}>
        <div
          className={`${test.unit === "class" ? "" : "when-chosen"} flex flex-wrap items-start justify-between gap-x-3 md:flex-nowrap ${place === "left" ? "" : "md:flex-row-reverse"}`}
        >
          <div className="w-full shrink-0 md:w-28">
            <SideNumber test={test} summary={sum} />
          </div>
          {test.unit !== "class" && (
            <div className="hidden w-full min-w-0 sm:block">
              <SideScale test={test} summary={sum} values={values} before={was} />
            </div>
          )}
          {test.unit === "class" && (
            <ClassCell
              after={screening.slots.after}
              test={test}
              place={place}
              slot={1}
              trials={trials}
              locked={locked || !!shut}
            />
          )}
        </div>
        {test.unit !== "class" && cells(slots)}
        {origins.some((o) => o.side === place) && (
          <ul className="mt-1 text-[13px] text-ink-2">
            {origins
              .filter((o) => o.side === place)
              .map((o) => (
                <li key={o.slot} className={place === "left" ? "md:text-right" : ""}>
                  {t`trial ${o.slot}: ${o.made}, ± ${o.margin.toFixed(1)}`}
                  {o.picture && (
                    <>
                      {", "}
                      <a
                        className="underline underline-offset-4"
                        href={`/api/screenings/${screening.id}/trials/${o.test}/${o.side}/${o.slot}/picture`}
                        target="_blank"
                        rel="noreferrer"
                      >
                        {t`Picture of trial ${o.slot}`}
                      </a>
                    </>
                  )}
                </li>
              ))}
          </ul>
        )}
        {said && (
          <p className={`mt-1 text-[13px] ${place === "left" ? "md:text-right" : ""}`}>
            <Trans>
              since {dayMonth(since?.on ?? "")}: <b>{said}</b>
            </Trans>
          </p>
        )}
        {again && test.unit !== "class" && (
          <>
            <p className={`mt-2 text-[13px] text-ink-2 ${place === "left" ? "md:text-right" : ""}`}>
              <Trans>
                after the routine{saidAfter ? ": " : ""}
                <b className="text-ink">{saidAfter}</b>
              </Trans>
            </p>
            {cells(
              slotsOf(
                screening.slots.after,
                Math.min(screening.slots.afterMost, test.trials),
                screening.slots.afterMost,
              ),
            )}
          </>
        )}
        {again && test.unit === "class" && (
          <div className="mt-2">
            <p className="text-[13px] text-ink-2">
              <Trans>
                after the routine{saidAfter ? ": " : ""}
                <b className="text-ink">{saidAfter}</b>
              </Trans>
            </p>
            <ClassCell
              after={screening.slots.after}
              test={test}
              place={place}
              slot={screening.slots.after}
              trials={trials}
              locked={locked || !!shut}
            />
          </div>
        )}
      </div>
    );
  };
  const fill = (place: Place, part: Partial<Entry>) => {
    const slot =
      Array.from({ length: screening.slots.most }, (_, i) => i + 1).find((n) => !filled(place, n)) ??
      screening.slots.most;
    trials.change(test, place, slot, part);
    trials.commit();
  };
  // What nobody measured takes one line until it is chosen.
  const idle =
    !shut &&
    !again &&
    r.left.value === undefined &&
    r.right.value === undefined &&
    !r.say.centre &&
    !(["left", "right", "both"] as const).some((p) => filled(p, 1)) &&
    !origins.length;
  return (
    <div
      data-idle={idle ? "" : undefined}
      className="test-row grid grid-cols-2 border-b border-rule md:grid-cols-[minmax(0,1fr)_15.5rem_minmax(0,1fr)]"
    >
      {test.sided ? (
        side("left", r.left)
      ) : (
        <div className="hidden px-3 py-3 text-[14px] text-ink-2 md:block md:text-right">{test.setUp}</div>
      )}
      <div className="order-first col-span-2 flex flex-col justify-center border-ink bg-paper px-2 py-2 text-center md:order-none md:col-span-1 md:border-x-2">
        <div className="flex items-center justify-center gap-1 text-left">
          <span className="when-chosen">
            <Drawing parts={test.picture} size={64} />
          </span>
          <div>
            <h3 className="leading-tight">
              <button
                type="button"
                className="text-left"
                aria-label={t`${test.name}: open the row`}
                onClick={(e) =>
                  e.currentTarget
                    .closest(".test-row")
                    ?.querySelector<HTMLElement>("input:not(:disabled), [role=checkbox], select")
                    ?.focus()
                }
              >
                {test.name}
              </button>
            </h3>
            <p className="when-chosen text-[13px] leading-tight text-ink-2">{test.cue}</p>
          </div>
        </div>
        {shut && <p className="mt-1 text-[14px] font-semibold text-clay">▲ {shut}</p>}
        {r.say.centre && <p className="mt-1 text-[14px]">{r.say.centre}</p>}
        {!locked && !shut && (
          <div className="when-chosen">
            <Aids test={test} open={aid} set={setAid} fill={fill} />
          </div>
        )}
        <p className="when-chosen mt-0.5 flex flex-wrap justify-center gap-x-2">
          <Why test={test} r={r} own={screening.ownNoise.includes(test.id)} />
          {!locked && !again && (
            <button
              type="button"
              className="btn-quiet text-[13px]"
              aria-label={t`re-test: ${test.name}`}
              onClick={() => setAgain(true)}
            >
              {t`Re-test`}
            </button>
          )}
          {!locked && test.noise && <EyePair test={test} runner={screening.runnerId} />}
        </p>
      </div>
      {test.sided ? side("right", r.right) : side("both", r.left)}
    </div>
  );
}
