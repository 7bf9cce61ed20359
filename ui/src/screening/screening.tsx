import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { type KeyboardEvent, useEffect, useId, useRef, useState } from "react";
import { Link, useParams } from "react-router";
import { api, need, type Schema } from "../api/client";
import { useOrigins, useScreening, useTests } from "../api/hooks";
import { dayMonth, weekDay } from "../parts/dates";
import { Choice, Field } from "../parts/field";
import { useKeys } from "../parts/keys";
import { SideName } from "../parts/marks";
import { sourceText } from "../parts/source";
import { SideNumber, SideScale } from "../parts/spine";
import { Failed, Loading, SaveState } from "../parts/states";
import { setInches, useInches } from "../parts/units";
import { Aids } from "./aids";
import { ConditionsRow } from "./conditions";
import { EyePair } from "./eye";
import { Figure } from "./figure";
import { FlagBanner } from "./flags";
import { Outcome } from "./outcome";
import { TalkStation } from "./talk";
import { type Entry, emptyEntry, keyOf, type Place, useTrials } from "./trials";

type Test = Schema["ScreeningTest"];
type Trials = ReturnType<typeof useTrials>;
const MAX_SLOTS = 5;

export function ScreeningView() {
  const { id = "" } = useParams();
  const s = useScreening(id);
  const tests = useTests();
  if (s.isPending || tests.isPending) return <Loading what="the screening" />;
  if (s.error) return <Failed error={s.error} retry={() => void s.refetch()} />;
  if (tests.error) return <Failed error={tests.error} retry={() => void tests.refetch()} />;
  return <Spine key={id} screening={s.data} tests={tests.data.items} />;
}

/** The station to open at: where the last trial was taken, on whatever device. */
function firstStation(s: Schema["Screening"], tests: Test[]): string {
  if (s.finished) return "Findings";
  const last = Math.max(-1, ...s.trials.map((t) => tests.findIndex((x) => x.id === t.test)));
  if (last >= 0) return tests[last]?.station ?? "Talk";
  return "Talk";
}

function Spine({ screening: s, tests }: { screening: Schema["Screening"]; tests: Test[] }) {
  const [correcting, setCorrecting] = useState("");
  const [quick, setQuick] = useState(localStorage.getItem("quick") === "yes");
  const [aid, setAid] = useState("");
  const inch = useInches();
  const trials = useTrials(s, tests, correcting);
  const origins = useOrigins(s.id);
  const locked = s.finished && !correcting;
  const stations = ["Talk", ...new Set(tests.map((t) => t.station)), "Findings"];
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
      show: "PgDn PgUp",
      does: "the next or the last station",
      typing: true,
      on: { PageDown: () => turn(1), PageUp: () => turn(-1) },
    },
    { show: "Enter", does: "next trial" },
    { show: "↑ ↓", does: "the same trial of the test above or below" },
    { show: "← →", does: "the trial beside, from the edge of the field" },
    { show: "c", does: "compensations, sharp pain, block" },
  ]);
  const shown = tests.filter((t) => t.station === station && (!quick || t.quick));
  const next = stations[stations.indexOf(station) + 1];
  const emergency = s.flags.some((f) => !f.cleared && f.level === "emergency");
  return (
    <>
      <div className="mb-3 flex flex-wrap items-end gap-x-5 gap-y-2">
        <h1>
          <Link to={`/runners/${s.runnerId}`} className="hover:underline">
            {s.runnerName}
          </Link>
        </h1>
        <p className="text-ink-2">
          Screening, {weekDay(s.on)}
          {s.footwear && ` · ${s.footwear}`} ·{" "}
          <span role="status">
            {trials.offline
              ? "no connection, kept here and sent again"
              : trials.waiting > 0
                ? "saving…"
                : s.finished
                  ? s.imported
                    ? "finished elsewhere, imported"
                    : "finished"
                  : "saved"}
          </span>
        </p>
        <p className="ml-auto flex flex-wrap items-center gap-x-3 text-[14px] text-ink-2">
          <Link className="btn-quiet" to={`/screenings/${s.id}/clips`}>
            clips
          </Link>
          <label className="flex items-center gap-1.5">
            <input
              type="checkbox"
              className="size-4 accent-[var(--ink)]"
              checked={quick}
              onChange={(e) => {
                localStorage.setItem("quick", e.target.checked ? "yes" : "no");
                setQuick(e.target.checked);
              }}
            />
            quick
          </label>
          <button type="button" className="btn-quiet" onClick={() => setInches(!inch)}>
            {inch ? "inches" : "cm"}
          </button>
          <span className="hidden lg:inline">
            <kbd className="key">Enter</kbd> next trial <kbd className="key">?</kbd> all keys
          </span>
        </p>
      </div>
      <FlagBanner s={s} />
      <nav aria-label="Stations" className="mb-4 flex flex-wrap gap-x-4 border-b-2 border-ink">
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
              tests={tests.filter((t) => t.station === name && (!quick || t.quick))}
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
          {shown.map((t) => (
            <TestRow
              key={t.id}
              test={t}
              screening={s}
              trials={trials}
              origins={origins.filter((o) => o.test === t.id)}
              locked={locked || emergency}
              aid={aid}
              setAid={setAid}
            />
          ))}
        </section>
      )}
      {station !== "Talk" && station !== "Findings" && shown.length === 0 && (
        <p className="py-6 text-ink-2">Nothing of this station belongs to the quick screening.</p>
      )}
      {station === "Findings" ? (
        <Finish screening={s} trials={trials} />
      ) : (
        <div className="mt-4 mb-24 flex gap-3">
          <button id="finish" type="button" className="btn btn-main" onClick={() => go(next)}>
            Next: {next}
          </button>
          <Link className="btn" to={`/runners/${s.runnerId}`}>
            Leave it open
          </Link>
        </div>
      )}
    </>
  );
}

function StationCount({ name, s, tests }: { name: string; s: Schema["Screening"]; tests: Test[] }) {
  if (name === "Talk")
    return s.unasked.length > 0 ? (
      <span className="ml-1.5 text-[13px] text-ink-2">{s.unasked.length} open</span>
    ) : null;
  if (name === "Findings")
    return s.findings.length > 0 ? (
      <span className="ml-1.5 text-[13px] text-ink-2">{s.findings.length}</span>
    ) : null;
  const done = tests.filter((t) => {
    const r = s.results.find((x) => x.test === t.id);
    return r && r.left.value !== undefined && (!t.sided || r.right.value !== undefined);
  }).length;
  return (
    <span className="ml-1.5 text-[13px] text-ink-2">
      {done}/{tests.length}
    </span>
  );
}

function TestRow({
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
    const slots = slotsOf(1, Math.max(test.trials, sum.takeMore ? sum.n + sum.kept + 1 : 0), MAX_SLOTS);
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
          className={`flex flex-wrap items-start justify-between gap-x-3 md:flex-nowrap ${place === "left" ? "" : "md:flex-row-reverse"}`}
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
            <ClassCell test={test} place={place} slot={1} trials={trials} locked={locked || !!shut} />
          )}
        </div>
        {test.unit !== "class" && cells(slots)}
        {origins.some((o) => o.side === place) && (
          <ul className="mt-1 text-[13px] text-ink-2">
            {origins
              .filter((o) => o.side === place)
              .map((o) => (
                <li key={o.slot} className={place === "left" ? "md:text-right" : ""}>
                  trial {o.slot}: {o.made}, ± {o.margin.toFixed(1)}
                  {o.picture && (
                    <>
                      {", "}
                      <a
                        className="underline underline-offset-4"
                        href={`/api/screenings/${screening.id}/trials/${o.test}/${o.side}/${o.slot}/picture`}
                        target="_blank"
                        rel="noreferrer"
                      >
                        picture of trial {o.slot}
                      </a>
                    </>
                  )}
                </li>
              ))}
          </ul>
        )}
        {said && (
          <p className={`mt-1 text-[13px] ${place === "left" ? "md:text-right" : ""}`}>
            since {dayMonth(since?.on ?? "")}: <b>{said}</b>
          </p>
        )}
        {again && test.unit !== "class" && (
          <>
            <p className={`mt-2 text-[13px] text-ink-2 ${place === "left" ? "md:text-right" : ""}`}>
              after the routine{saidAfter ? ": " : ""}
              <b className="text-ink">{saidAfter}</b>
            </p>
            {cells(slotsOf(6, Math.min(4, test.trials), 4))}
          </>
        )}
        {again && test.unit === "class" && (
          <div className="mt-2">
            <p className="text-[13px] text-ink-2">
              after the routine{saidAfter ? ": " : ""}
              <b className="text-ink">{saidAfter}</b>
            </p>
            <ClassCell test={test} place={place} slot={6} trials={trials} locked={locked || !!shut} />
          </div>
        )}
      </div>
    );
  };
  const fill = (place: Place, part: Partial<Entry>) => {
    const slot =
      Array.from({ length: MAX_SLOTS }, (_, i) => i + 1).find((n) => !filled(place, n)) ?? MAX_SLOTS;
    trials.change(test, place, slot, part);
    trials.commit();
  };
  return (
    <div className="grid grid-cols-2 border-b border-rule md:grid-cols-[minmax(0,1fr)_15.5rem_minmax(0,1fr)]">
      {test.sided ? (
        side("left", r.left)
      ) : (
        <div className="hidden px-3 py-3 text-[14px] text-ink-2 md:block md:text-right">{test.setUp}</div>
      )}
      <div className="order-first col-span-2 flex flex-col justify-center border-ink bg-paper px-2 py-2 text-center md:order-none md:col-span-1 md:border-x-2">
        <div className="flex items-center justify-center gap-1 text-left">
          <Figure test={test.id} station={test.station} />
          <div>
            <h3 className="leading-tight">{test.name}</h3>
            <p className="text-[13px] leading-tight text-ink-2">{test.cue}</p>
          </div>
        </div>
        {shut && <p className="mt-1 text-[14px] font-semibold text-clay">▲ {shut}</p>}
        {r.say.centre && <p className="mt-1 text-[14px]">{r.say.centre}</p>}
        {!locked && !shut && <Aids test={test} open={aid} set={setAid} fill={fill} />}
        <p className="mt-0.5 flex flex-wrap justify-center gap-x-2">
          <Why test={test} r={r} own={screening.ownNoise.includes(test.id)} />
          {!locked && !again && (
            <button
              type="button"
              className="btn-quiet text-[13px]"
              aria-label={`re-test: ${test.name}`}
              onClick={() => setAgain(true)}
            >
              re-test
            </button>
          )}
          {!locked && test.noise && <EyePair test={test} runner={screening.runnerId} />}
        </p>
      </div>
      {test.sided ? side("right", r.right) : side("both", r.left)}
    </div>
  );
}

/** Why a test is not done now: a flag, or its gate. */
function closedBy(test: Test, s: Schema["Screening"]): string {
  const flag = s.flags.find((f) => !f.cleared && (f.everything || f.tests?.includes(test.id)));
  if (flag) return `${flag.flag} closes this test`;
  const gate = s.gates.find((g) => g.gate === test.gate);
  return gate && !gate.open ? `waits for the gate ${gate.name}` : "";
}

/** A test judged by eye: one choice, or faults to tick. */
function ClassCell({
  test,
  place,
  slot,
  trials,
  locked,
}: {
  test: Test;
  place: Place;
  slot: number;
  trials: Trials;
  locked: boolean;
}) {
  const k = keyOf(test.id, place, slot);
  const e = trials.entries[k] ?? emptyEntry;
  const set = (part: Partial<Entry>) => {
    if (locked) return;
    trials.change(test, place, slot, part);
    trials.commit();
  };
  const name = `${test.name}, ${place === "both" ? "" : `${place}, `}${slot >= 6 ? "after" : "now"}`;
  const faults = test.checks.length > 0;
  return (
    <div className={`grid w-full gap-1 ${place === "left" ? "md:justify-items-end" : ""}`}>
      {!faults && (
        <fieldset disabled={locked}>
          <Choice
            label={name}
            hideLabel
            compact
            options={test.options.map((o) => ({ value: o.value, label: o.label }))}
            value={e.text === "" ? undefined : Number(e.text)}
            onChange={(v) => set({ text: String(v) })}
          />
        </fieldset>
      )}
      {test.compensations.length > 0 && (
        <fieldset disabled={locked} className="flex flex-wrap gap-x-4 text-[14px]">
          <legend className="sr-only">{name}: seen</legend>
          {test.compensations.map((c) => (
            <Tick
              key={c.id}
              label={c.name}
              on={e.compensations.includes(c.id)}
              set={(on) =>
                set({
                  text: faults ? "0" : e.text,
                  compensations: on ? [...e.compensations, c.id] : e.compensations.filter((x) => x !== c.id),
                })
              }
            />
          ))}
          {faults && (
            <Tick
              label="nothing to note"
              on={e.text === "0" && e.compensations.length === 0}
              set={(on) => set({ text: on ? "0" : "", compensations: [] })}
            />
          )}
        </fieldset>
      )}
      {e.compensations.includes("cramps") && (
        <label className="text-[14px]">
          cramp at repetition{" "}
          <input
            className="field inline-block min-h-8 w-16"
            inputMode="numeric"
            disabled={locked}
            value={e.crampAt ?? ""}
            onChange={(ev) => {
              const n = Number(ev.target.value.replace(/\D/g, ""));
              set({ crampAt: n > 0 ? Math.min(100, n) : undefined });
            }}
          />
        </label>
      )}
      {trials.errors[k] && <p className="text-[13px] text-clay">{trials.errors[k]}</p>}
    </div>
  );
}

const struckSlot = (test: Test, trials: Trials, side: Place, slot: number) => {
  const e = trials.entries[keyOf(test.id, side, slot)];
  return test.compensations.some((c) => c.invalid && e?.compensations.includes(c.id));
};

function Why({ test, r, own }: { test: Test; r: Schema["JudgedResult"]; own: boolean }) {
  return (
    <Popover.Root>
      <Popover.Trigger className="btn-quiet text-[13px]" aria-label={`How and why: ${test.name}`}>
        how and why
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          className="panel w-[min(26rem,92vw)] text-[14px]"
          sideOffset={6}
          collisionPadding={12}
        >
          <h3>{test.name}</h3>
          <p className="mt-1">{test.setUp}</p>
          <p className="mt-2">
            {test.sided && <SideName side="left" />} {r.say.left}
          </p>
          {test.sided && (
            <p className="mt-2">
              <SideName side="right" /> {r.say.right}
            </p>
          )}
          {own && <p className="mt-2 font-semibold">Judged with your own noise, from your pairs.</p>}
          <p className="mt-2 text-ink-2">
            Source: {sourceText(r.left.cut?.source ?? test.source)}.
            {test.noise &&
              ` Noise of one trial ${test.noise.sem} ${test.unit}: ${sourceText(test.noise.source)}.`}
            {r.asymmetry.known && ` Sides: ${sourceText(r.asymmetry.source)}.`}
          </p>
          <Popover.Close className="btn mt-3 min-h-8">Close</Popover.Close>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

const cellId = (test: string, side: Place, slot: number) => `t-${test}-${side}-${slot}`;

/** Moves the focus; returns whether there was somewhere to go. */
function focusCell(where: Element | null | undefined): boolean {
  if (!(where instanceof HTMLInputElement)) return false;
  where.focus();
  where.select();
  return true;
}

function travel(e: KeyboardEvent<HTMLInputElement>) {
  const all = [...document.querySelectorAll<HTMLInputElement>("input[data-cell]:not(:disabled)")];
  const at = all.indexOf(e.currentTarget);
  const { test = "", side = "left", slot = "1" } = e.currentTarget.dataset;
  const edge =
    e.currentTarget.selectionStart === e.currentTarget.selectionEnd || e.currentTarget.value === "";
  const caret = e.currentTarget.selectionStart ?? 0;
  let to: Element | null | undefined;
  if (e.key === "Enter") to = all[at + (e.shiftKey ? -1 : 1)];
  else if (e.key === "ArrowRight" && edge && caret === e.currentTarget.value.length) to = all[at + 1];
  else if (e.key === "ArrowLeft" && edge && caret === 0) to = all[at - 1];
  else if (e.key === "ArrowDown" || e.key === "ArrowUp") {
    const tests = [...new Set(all.map((i) => i.dataset.test))];
    const next = tests[tests.indexOf(test) + (e.key === "ArrowDown" ? 1 : -1)];
    to = next
      ? (document.getElementById(cellId(next, side as Place, Number(slot))) ??
        document.getElementById(cellId(next, side as Place, 1)))
      : null;
  } else return;
  e.preventDefault();
  if (!focusCell(to) && e.key === "Enter") document.getElementById("finish")?.focus();
}

function Cell({
  test,
  side,
  slot,
  trials,
  locked,
  struck,
}: {
  test: Test;
  side: Place;
  slot: number;
  trials: Trials;
  locked: boolean;
  struck: boolean;
}) {
  const [open, setOpen] = useState(false);
  const k = keyOf(test.id, side, slot);
  const e: Entry = trials.entries[k] ?? emptyEntry;
  const error = trials.errors[k];
  const say = useId();
  const change = (part: Partial<Entry>) => trials.change(test, side, slot, part);
  const label = `${test.name}, ${side === "both" ? "" : `${side}, `}${slot >= 6 ? "after, " : ""}trial ${slot >= 6 ? slot - 5 : slot}`;
  const inch = useInches() && test.unit === "cm";
  const unit = test.unit === "°" ? "degrees" : inch ? "inches" : test.unit;
  const ring =
    side === "left"
      ? "focus-within:border-lefty"
      : side === "right"
        ? "focus-within:border-righty"
        : "focus-within:border-ink";
  const noted = test.compensations.filter((c) => e.compensations.includes(c.id)).map((c) => c.name);
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <div className="max-w-44">
        <Popover.Anchor asChild>
          <div
            className={`flex items-stretch rounded-[3px] border-[1.5px] bg-paper ${error ? "border-clay" : "border-edge"} ${ring}`}
          >
            {e.block ? (
              <button
                type="button"
                className="px-2 text-[14px] underline underline-offset-4"
                disabled={locked}
                onClick={() => setOpen(true)}
                aria-label={`${label}: block ${e.block.height} by ${e.block.length} cm`}
              >
                block {e.block.height || "?"} / {e.block.length || "?"}
              </button>
            ) : (
              <input
                id={cellId(test.id, side, slot)}
                data-cell
                data-test={test.id}
                data-side={side}
                data-slot={slot}
                inputMode="decimal"
                autoComplete="off"
                aria-label={`${label}, ${unit}`}
                aria-invalid={!!error}
                aria-describedby={error || noted.length ? say : undefined}
                disabled={locked}
                className={`h-9 w-14 bg-transparent px-2 text-right font-semibold outline-none ${struck ? "text-ink-2 line-through decoration-2" : ""}`}
                value={e.text}
                onChange={(ev) => change({ text: ev.target.value })}
                onBlur={trials.commit}
                onKeyDown={(ev) => {
                  if (ev.key === "c" && test.compensations.length > 0 && !ev.ctrlKey && !ev.metaKey) {
                    ev.preventDefault();
                    setOpen(true);
                  } else travel(ev);
                }}
              />
            )}
            {test.asksPain && (
              <input
                data-cell
                data-test={test.id}
                data-side={side}
                data-slot={slot}
                inputMode="decimal"
                autoComplete="off"
                aria-label={`${label}, pain 0 to 10`}
                placeholder="pain"
                disabled={locked}
                className="h-9 w-13 border-l border-rule bg-transparent px-1.5 text-center outline-none"
                value={e.pain}
                onChange={(ev) => change({ pain: ev.target.value })}
                onBlur={trials.commit}
                onKeyDown={travel}
              />
            )}
            <Popover.Trigger
              className={`w-8 border-l border-rule ${struck || e.sharp ? "font-bold text-clay" : "text-ink-2"}`}
              disabled={locked}
              aria-label={`${label}: ${struck || e.sharp ? "struck out, " : ""}compensations and more`}
            >
              {struck || e.sharp ? "✗" : "+"}
            </Popover.Trigger>
          </div>
        </Popover.Anchor>
        {(error || noted.length > 0 || e.sharp) && (
          <p id={say} className={`mt-0.5 text-[13px] leading-tight ${error ? "text-clay" : "text-ink-2"}`}>
            {error ?? [...noted, ...(e.sharp ? ["sharp pain"] : [])].join(", ")}
          </p>
        )}
      </div>
      <Popover.Portal>
        <Popover.Content
          className="panel w-72"
          sideOffset={6}
          collisionPadding={12}
          onCloseAutoFocus={(ev) => {
            ev.preventDefault();
            trials.commit();
            focusCell(document.getElementById(cellId(test.id, side, slot)));
          }}
        >
          <h3 className="mb-2">
            Trial {slot}, <SideName side={side} />
          </h3>
          <fieldset>
            <legend className="text-[14px] text-ink-2">Seen in this trial (✗ does not count)</legend>
            {test.compensations.map((c) => (
              <Tick
                key={c.id}
                label={`${c.invalid ? "✗ " : ""}${c.name}`}
                on={e.compensations.includes(c.id)}
                set={(on) =>
                  change({
                    compensations: on
                      ? [...e.compensations, c.id]
                      : e.compensations.filter((x) => x !== c.id),
                  })
                }
              />
            ))}
            <Tick label="stopped by a sharp pain" on={e.sharp} set={(sharp) => change({ sharp })} />
          </fieldset>
          {test.block && <BlockEntry entry={e} change={change} />}
          <div className="mt-3 flex gap-2">
            <Popover.Close className="btn min-h-8 px-3">Done</Popover.Close>
            <button
              type="button"
              className="btn min-h-8 px-3"
              onClick={() => {
                change({ ...emptyEntry, block: undefined });
                setOpen(false);
              }}
            >
              Take out
            </button>
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function Tick({ label, on, set }: { label: string; on: boolean; set: (on: boolean) => void }) {
  return (
    <label className="flex min-h-8 items-center gap-2">
      <input
        type="checkbox"
        className="size-4.5 accent-[var(--ink)]"
        checked={on}
        onChange={(e) => set(e.target.checked)}
        onKeyDown={(e) => {
          if (e.key === "Enter") set(!on);
        }}
      />
      {label}
    </label>
  );
}

function BlockEntry({ entry: e, change }: { entry: Entry; change: (p: Partial<Entry>) => void }) {
  const b = e.block;
  if (!b)
    return (
      <button
        type="button"
        className="btn-quiet mt-2 text-[14px]"
        onClick={() => change({ text: "", block: { height: "", length: "", floor: false } })}
      >
        Measured with a block instead
      </button>
    );
  const set = (p: Partial<typeof b>) => change({ block: { ...b, ...p } });
  return (
    <div className="mt-3 grid grid-cols-2 gap-2 border-t border-rule pt-3">
      <Field
        label="Block, cm"
        inputMode="decimal"
        value={b.height}
        onChange={(x) => set({ height: x.target.value })}
      />
      <Field
        label="Toe, cm"
        inputMode="decimal"
        value={b.length}
        onChange={(x) => set({ length: x.target.value })}
      />
      <div className="col-span-2">
        <Tick label="length taken along the floor" on={b.floor} set={(floor) => set({ floor })} />
        <button type="button" className="btn-quiet text-[14px]" onClick={() => change({ block: undefined })}>
          Type degrees instead
        </button>
      </div>
    </div>
  );
}

function Correct({ finished, value, set }: { finished: boolean; value: string; set: (v: string) => void }) {
  const [text, setText] = useState("");
  if (!finished) return null;
  if (value)
    return (
      <p className="mb-5 border-l-4 border-ink bg-paper p-3">
        Correcting: <b>{value}</b>. The earlier readings stay in the record.{" "}
        <button type="button" className="btn-quiet" onClick={() => set("")}>
          Done correcting
        </button>
      </p>
    );
  return (
    <details className="mb-5">
      <summary className="btn-quiet list-none">Correct a reading</summary>
      <form
        className="mt-2 flex max-w-xl items-end gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (text.trim()) set(text.trim());
        }}
      >
        <Field
          label="Why"
          className="grow"
          value={text}
          onChange={(e) => setText(e.target.value)}
          maxLength={300}
        />
        <button type="submit" className="btn">
          Open the readings
        </button>
      </form>
    </details>
  );
}

function Finish({ screening: s, trials }: { screening: Schema["Screening"]; trials: Trials }) {
  const qc = useQueryClient();
  const finish = useMutation({
    mutationFn: async () => {
      await trials.settled();
      return need(api.POST("/api/screenings/{id}/finish", { params: { path: { id: s.id } } }));
    },
    onSuccess: (done) => {
      qc.setQueryData(["screening", s.id], done);
      void qc.invalidateQueries({ queryKey: ["bench"] });
      void qc.invalidateQueries({ queryKey: ["screenings", s.runnerId] });
    },
  });
  return (
    <div className="mt-6 flex flex-wrap items-center gap-4">
      {s.finished ? (
        <Link id="finish" className="btn btn-main" to={`/runners/${s.runnerId}/plan`}>
          Plan the block
        </Link>
      ) : (
        <button
          id="finish"
          type="button"
          className="btn btn-main"
          disabled={finish.isPending}
          onClick={() => finish.mutate()}
        >
          Finish the screening
        </button>
      )}
      <Link className="btn" to={`/runners/${s.runnerId}`}>
        {s.finished ? "To the runner" : "Leave it open"}
      </Link>
      <SaveState error={finish.error} saving={finish.isPending} />
    </div>
  );
}
