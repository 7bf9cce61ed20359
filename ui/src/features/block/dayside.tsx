import { useEffect, useRef, useState } from "react";
import { Problem, type Schema } from "../../api/client";
import { plusDays, weekDay } from "../../parts/dates";
import { Field } from "../../parts/field";
import { Title } from "../../parts/marks";
import { Picture } from "../../parts/picture";
import { SaveState } from "../../parts/states";
import { Tick } from "../../parts/tick";
import { usePictures } from "../shelf/hooks";
import { type Block, type Change, lookAhead, useChange } from "./change";
import { runName, sessionName } from "./hooks";
import type { Move } from "./weeks";

const both = (x: Schema["DoseView"]) => (x.same ? x.left : `left ${x.left}, right ${x.right}`);

/** One day of a block: what is done, with pictures, and a way to move it. */
export function DaySide({ b, on, onMove }: { b: Block; on: string; onMove: (m: Move) => void }) {
  const pic = usePictures();
  const d = b.weeks.flatMap((w) => w.days).find((x) => x.on === on);
  if (!d) return null;
  const can = on >= b.today && !b.ended;
  return (
    <section aria-label={`The day, ${weekDay(on)}`} className="mb-6">
      <Title aside={d.race && d.run ? "race" : d.run ? `${runName[d.run]} run` : "no run"}>
        {weekDay(on)}
      </Title>
      {d.retest && <p className="mb-2 font-semibold">Test again: {d.retest}.</p>}
      {d.noRun && <p className="mb-2 font-semibold text-clay">▲ {d.noRun}</p>}
      {!d.in && <p className="text-ink-2">Outside the block.</p>}
      {d.ramp.map((x) => (
        <p key={x.stage} className="mb-1 border-b border-rule pb-1 text-[14px]">
          <b>{x.name}</b> {x.words}
          {x.done && <span className="text-pine"> · done</span>}
        </p>
      ))}
      {d.in && !d.logged && d.sessions.length === 0 && d.ramp.length === 0 && (
        <p className="text-ink-2">Nothing planned: rest.</p>
      )}
      {d.logged && d.done.map((x) => <Dose key={x.prescriptionId} x={x} pic={pic(x.exercise)} />)}
      {!d.logged &&
        d.sessions.map((s) => (
          <div key={s.kind} className="mb-3">
            <p className="flex flex-wrap items-baseline justify-between gap-x-3">
              <b>{s.name}</b>
              <span className="text-[14px] text-ink-2">
                {s.minutes > 0 && `${s.minutes} min`}
                {s.when && ` ${s.when}`}
              </span>
            </p>
            {s.moved && <p className="text-[14px] text-ink-2">moved from {weekDay(s.moved)}</p>}
            {s.doses.map((x) => (
              <Dose key={x.prescriptionId} x={x} pic={pic(x.exercise)} />
            ))}
            {can && (
              <label className="mt-1 flex items-center gap-2 text-[14px] text-ink-2">
                move to
                <select
                  className="field min-h-8 w-auto py-0.5"
                  aria-label={`Move ${s.name} of ${weekDay(on)} to`}
                  value=""
                  onChange={(e) => e.target.value && onMove({ kind: s.kind, from: on, to: e.target.value })}
                >
                  <option value="">choose a day</option>
                  {Array.from({ length: 14 }, (_, i) => plusDays(on, i - 6))
                    .filter((x) => x !== on && x >= b.today && x <= b.endOn)
                    .map((x) => (
                      <option key={x} value={x}>
                        {weekDay(x)}
                      </option>
                    ))}
                </select>
              </label>
            )}
          </div>
        ))}
    </section>
  );
}

function Dose({ x, pic }: { x: Schema["DoseView"]; pic: Schema["Picture"] | undefined }) {
  return (
    <div className="flex gap-3 border-b border-rule py-1.5">
      <Picture picture={pic} size={40} />
      <p className="min-w-0 text-[14px] leading-snug">
        <b>{x.name}</b>
        <br />
        {both(x)}
        {x.load && <span className="block">{x.load}</span>}
        {x.note && <span className="block text-ink-2">{x.note}</span>}
        {x.limits && <span className="block font-semibold">only {x.limits}</span>}
      </p>
    </div>
  );
}

/** What a move does, before it is done: once, every week, or with a reason. */
export function MovePanel({ b, m, done }: { b: Block; m: Move; done: () => void }) {
  const once: Change = { kind: "move", session: m.kind, from: m.from, to: m.to };
  const sameWeek = monday(m.from) === monday(m.to);
  const [always, setAlways] = useState(false);
  const change = useChange(b);
  const { look, error } = useLook(b, change.isIdle || change.isError ? { ...once, always } : null);
  const [reason, setReason] = useState("");
  const first = useRef<HTMLButtonElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: each new move takes the focus
  useEffect(() => first.current?.focus(), [m]);
  const broken = look?.broken ?? [];
  // Sent before the look is back, the server looks itself and refuses what breaks a rule.
  const save = () =>
    change.mutate({ ...once, always, reason: broken.length ? reason : undefined }, { onSuccess: done });
  return (
    <form
      aria-label="Move a session"
      className="mb-6 border-l-4 border-ink bg-paper p-4"
      onSubmit={(e) => {
        e.preventDefault();
        save();
      }}
    >
      <h2>
        {sessionName[m.kind]}: {weekDay(m.from)} → {weekDay(m.to)}
      </h2>
      <Outlook look={look} error={error} />
      {sameWeek && (
        <Tick
          className="mt-2 flex min-h-8 items-center gap-2"
          label="every week from now on"
          on={always}
          onChange={setAlways}
        />
      )}
      {broken.length > 0 && (
        <Field
          label="Do it all the same, because"
          className="mt-2"
          value={reason}
          maxLength={300}
          onChange={(e) => setReason(e.target.value)}
        />
      )}
      <div className="mt-3 flex gap-3">
        <button
          ref={first}
          type="submit"
          className="btn btn-main"
          disabled={change.isPending || (broken.length > 0 && !reason.trim())}
        >
          {broken.length > 0 ? "Insist" : "Move it"}
        </button>
        <button type="button" className="btn" onClick={done}>
          Leave it
        </button>
      </div>
      <ChangeError error={change.error} saving={change.isPending} />
    </form>
  );
}

const monday = (iso: string) => {
  const d = new Date(`${iso}T00:00:00Z`);
  return plusDays(iso, -((d.getUTCDay() + 6) % 7));
};

/** Broken rules and consequences of a change that is only looked at. */
export function Outlook({
  look,
  error,
}: {
  look: Schema["ChangedBlock"] | undefined;
  error: string | undefined;
}) {
  return (
    <div role="status" className="mt-1 text-[14px]">
      {error && (
        <p className="text-clay">
          <span aria-hidden="true">▲ </span>
          {error}
        </p>
      )}
      {look?.broken.map((x) => (
        <p key={x} className="font-semibold text-clay">
          <span aria-hidden="true">▲ </span>
          {x}
        </p>
      ))}
      {look && look.broken.length === 0 && !error && <p>Every rule keeps.</p>}
      {look?.consequences.map((x) => (
        <p key={x} className="text-ink-2">
          {x}
        </p>
      ))}
    </div>
  );
}

/** Looks at a change a moment after it was last touched. */
export function useLook(b: Block, c: Change | null) {
  const [look, setLook] = useState<Schema["ChangedBlock"]>();
  const [error, setError] = useState<string>();
  const body = c ? JSON.stringify(c) : "";
  // biome-ignore lint/correctness/useExhaustiveDependencies: the change as text is what it depends on
  useEffect(() => {
    setLook(undefined);
    setError(undefined);
    if (!body) return;
    let gone = false;
    const t = setTimeout(() => {
      lookAhead(b, JSON.parse(body) as Change).then(
        (x) => !gone && setLook(x),
        (e: unknown) =>
          !gone &&
          setError(
            e instanceof Problem
              ? (Object.values(e.fields)[0] ?? e.message)
              : "No connection; look again later.",
          ),
      );
    }, 80);
    return () => {
      gone = true;
      clearTimeout(t);
    };
  }, [body, b.id, b.revision]);
  return { look, error };
}

export function ChangeError({ error, saving }: { error: Error | null; saving: boolean }) {
  if (error instanceof Problem && Object.keys(error.fields).length > 0)
    return (
      <p role="alert" className="mt-2 text-clay">
        {Object.values(error.fields)[0]}
      </p>
    );
  return <SaveState error={error} saving={saving} />;
}
