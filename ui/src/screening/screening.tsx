import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { type KeyboardEvent, useId, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, freshKey, need, type Schema } from "../api/client";
import { useKeepBlock, useScreening, useTests } from "../api/hooks";
import { weekDay } from "../parts/dates";
import { Field } from "../parts/field";
import { useKeys } from "../parts/keys";
import { SideName } from "../parts/marks";
import { SideNumber, SideScale } from "../parts/spine";
import { Failed, Loading, SaveState } from "../parts/states";
import { Findings } from "./findings";
import { type Entry, emptyEntry, keyOf, type Side, useTrials } from "./trials";

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

function Spine({ screening: s, tests }: { screening: Schema["Screening"]; tests: Test[] }) {
  const [correcting, setCorrecting] = useState("");
  const trials = useTrials(s, tests, correcting);
  const locked = s.finished && !correcting;
  useKeys([
    ["Enter", "next trial"],
    ["↑ ↓", "the same trial of the test above or below"],
    ["← →", "the trial beside, from the edge of the field"],
    ["c", "compensations, sharp pain, block"],
    ["Esc", "back to the field"],
  ]);
  const stations = [...new Set(tests.map((t) => t.station))];
  return (
    <>
      <div className="mb-4 flex flex-wrap items-end gap-x-5 gap-y-2">
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
                  ? "finished"
                  : "saved"}
          </span>
        </p>
        <p className="ml-auto hidden text-[14px] text-ink-2 lg:block">
          <kbd className="key">Enter</kbd> next trial <kbd className="key">c</kbd> compensation{" "}
          <kbd className="key">?</kbd> all keys
        </p>
      </div>
      {stations.map((station) => (
        <section key={station} aria-label={station} className="mb-5 border-t-2 border-ink">
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
          {tests
            .filter((t) => t.station === station)
            .map((t) => (
              <TestRow key={t.id} test={t} screening={s} trials={trials} locked={locked} />
            ))}
        </section>
      ))}
      <Correct finished={s.finished} value={correcting} set={setCorrecting} />
      <Findings findings={s.findings} tests={tests} />
      <Finish screening={s} trials={trials} />
    </>
  );
}

function TestRow({
  test,
  screening,
  trials,
  locked,
}: {
  test: Test;
  screening: Schema["Screening"];
  trials: Trials;
  locked: boolean;
}) {
  const stored = screening.results.find((r) => r.test === test.id);
  const r = trials.live[test.id] ?? stored;
  if (!r) return null;
  const side = (name: Side) => {
    const sum = r[name];
    const used = Array.from({ length: MAX_SLOTS }, (_, i) => i + 1).filter((n) => {
      const e = trials.entries[keyOf(test.id, name, n)];
      return e && (e.text !== "" || e.block || e.sharp);
    });
    const slots = Math.min(
      MAX_SLOTS,
      Math.max(test.trials, ...used, sum.takeMore ? sum.n + sum.kept + 1 : 0),
    );
    const values = sum.values.flatMap((value, i) =>
      typeof value === "number" ? [{ value, counts: sum.counts[i] ?? true }] : [],
    );
    const number = <SideNumber test={test} summary={sum} />;
    return (
      <div className="min-w-0 px-3 py-2">
        <div
          className={`flex flex-wrap items-start justify-between gap-x-3 md:flex-nowrap ${name === "right" ? "md:flex-row-reverse" : ""}`}
        >
          <div className="w-full shrink-0 md:w-28">{number}</div>
          <div className="hidden w-full min-w-0 sm:block">
            <SideScale test={test} summary={sum} values={values} />
          </div>
        </div>
        <div className={`mt-1 flex flex-wrap gap-1.5 ${name === "left" ? "md:justify-end" : ""}`}>
          {Array.from({ length: slots }, (_, i) => i + 1).map((slot) => (
            <Cell
              key={slot}
              test={test}
              side={name}
              slot={slot}
              trials={trials}
              locked={locked}
              struck={struckSlot(test, trials, name, slot)}
            />
          ))}
        </div>
      </div>
    );
  };
  return (
    <div className="grid grid-cols-2 border-b border-rule md:grid-cols-[minmax(0,1fr)_15.5rem_minmax(0,1fr)]">
      {side("left")}
      <div className="order-first col-span-2 flex flex-col justify-center border-ink bg-paper px-3 py-2 text-center md:order-none md:col-span-1 md:border-x-2">
        <h3>{test.name}</h3>
        <p className="text-[13px] text-ink-2">{test.cue}</p>
        {r.say.centre && <p className="mt-1 text-[14px]">{r.say.centre}</p>}
        <p className="mt-0.5">
          <Why test={test} r={r} />
        </p>
      </div>
      {side("right")}
    </div>
  );
}

const struckSlot = (test: Test, trials: Trials, side: Side, slot: number) => {
  const e = trials.entries[keyOf(test.id, side, slot)];
  return test.compensations.some((c) => c.invalid && e?.compensations.includes(c.id));
};

function Why({ test, r }: { test: Test; r: Schema["JudgedResult"] }) {
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
            <SideName side="left" /> {r.say.left}
          </p>
          <p className="mt-2">
            <SideName side="right" /> {r.say.right}
          </p>
          <p className="mt-2 text-ink-2">
            Cut-offs: {sourceText(r.left.cut.source)}.
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

export function sourceText(t: Schema["SourceTag"]) {
  const head =
    t.kind === "published"
      ? `published, ${t.cite}`
      : t.kind === "house"
        ? `our own${t.cite ? `, after ${t.cite}` : ""}`
        : "common practice, no source";
  return `${head}${t.why ? `: ${t.why}` : ""}${t.fromMemory ? " (from memory)" : ""}`;
}

const cellId = (test: string, side: Side, slot: number) => `t-${test}-${side}-${slot}`;

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
      ? (document.getElementById(cellId(next, side as Side, Number(slot))) ??
        document.getElementById(cellId(next, side as Side, 1)))
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
  side: Side;
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
  const label = `${test.name}, ${side}, trial ${slot}`;
  const unit = test.unit === "°" ? "degrees" : test.unit;
  const ring = side === "left" ? "focus-within:border-lefty" : "focus-within:border-righty";
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
                  if (ev.key === "c" && !ev.ctrlKey && !ev.metaKey) {
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
  const go = useNavigate();
  const keep = useKeepBlock();
  const [key] = useState(freshKey);
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
  const plan = useMutation({
    mutationFn: () =>
      need(
        api.POST("/api/runners/{id}/blocks", {
          body: { screeningId: s.id },
          params: { path: { id: s.runnerId }, header: { "Idempotency-Key": key } },
        }),
      ),
    onSuccess: (b) => {
      keep(b);
      go(`/runners/${s.runnerId}/block`);
    },
  });
  return (
    <div className="mt-6 flex flex-wrap items-center gap-4">
      {s.finished ? (
        <button
          id="finish"
          type="button"
          className="btn btn-main"
          disabled={plan.isPending}
          onClick={() => plan.mutate()}
        >
          Make a block of four weeks
        </button>
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
      <SaveState error={finish.error ?? plan.error} saving={finish.isPending || plan.isPending} />
    </div>
  );
}
