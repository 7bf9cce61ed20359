import { plural, t } from "@lingui/core/macro";
import { useEffect, useMemo, useState } from "react";
import { SideMark } from "../../parts/marks";
import { Shown } from "../../parts/motion";
import { sideName } from "../../parts/sidename";
import { After, Before, Walk } from "./asked";
import { prepare, stayAwake } from "./beat";
import { type Effort, efforts, nextAt, resultOf, shownAt, walks } from "./course";
import { Finish } from "./finish";
import type { Progress, Result } from "./keep";
import { Main, Page, Place, Scale } from "./kit";
import { idOf, type Now } from "./rules";
import { Count, Rest } from "./set";
import { SomethingNew } from "./something";
import type { Ready } from "./usepocket";

type Phase = "walk" | "before" | "work" | "pain" | "rest" | "after" | "end";

/** A session, one set a screen; it goes on where it was. */
export function Session({ p, now, back }: { p: Ready; now: Now; back: () => void }) {
  const list = useMemo(() => efforts(now), [now]);
  const progress: Progress = p.progress ?? { on: p.today, kind: idOf(now.sitting), at: 0, results: {} };
  const at = nextAt(list, progress, progress.at);
  const e = list[at];
  const firstOfItem = !!e && list.findIndex((x) => x.item === e.item) === at;
  const routine = now.sitting.routine;
  const measures = routine?.compare === "cm";
  const fresh =
    (measures ? !progress.before : walks(now) && !routine && progress.walked === undefined) &&
    Object.keys(progress.results).length === 0;
  const [phase, setPhase] = useState<Phase>(e ? (fresh ? "walk" : firstOfItem ? "before" : "work") : "end");
  const [stop, setStop] = useState("");
  useEffect(() => stayAwake(), []);
  useEffect(() => prepare(), []);

  const keep = (part: Partial<Result>, of: Effort, to = progress.at): Progress => {
    const next = {
      ...progress,
      at: to,
      results: { ...progress.results, [of.key]: { ...resultOf(progress, of), ...part } },
    };
    void p.step(next);
    return next;
  };
  /** Goes on from a set: to the rest, to what is asked of the exercise, or to the end. */
  const on = (after: Progress, of: Effort) => {
    const next = nextAt(list, after, at + 1);
    void p.step({ ...after, at: next });
    const n = list[next];
    setPhase(!n || n.item !== of.item ? "after" : "rest");
  };
  if (stop)
    return (
      <SomethingNew
        p={p}
        why={stop}
        back={() => setStop("")}
        told={() => {
          setStop("");
          setPhase("end");
        }}
      />
    );
  if (!e || phase === "end")
    return <Finish p={p} list={list} progress={progress} routine={routine} back={back} />;
  if (phase === "walk" && measures)
    return (
      <Before
        title={now.sitting.name}
        what={routine?.compared ?? ""}
        back={back}
        done={(before) => {
          void p.step({ ...progress, before });
          setPhase("before");
        }}
      />
    );
  if (phase === "walk")
    return (
      <Walk
        title={now.sitting.name}
        back={back}
        done={(walked) => {
          void p.step({ ...progress, walked });
          setPhase("before");
        }}
      />
    );
  // What is asked of an exercise is asked of the one before the place.
  const asked = phase === "after" ? (list[at - 1] ?? e) : e;
  const text = p.plan.texts[asked.step.exercise];
  const items = [...new Set(list.map((x) => x.item))];
  const side = (x: Effort) => (
    <span
      className={`flex items-center gap-1.5 font-bold ${x.side.side === "left" ? "text-lefty" : x.side.side === "right" ? "text-righty" : ""}`}
    >
      <SideMark side={x.side.side} /> {sideName(x.side.side)}
    </span>
  );
  const release = e.item.purpose === "release";
  const painOf = (n: number) => {
    const r = resultOf(progress, e);
    const pain = Math.max(r.pain ?? 0, n);
    const ends = n >= e.item.endsAt;
    const after = keep(
      { sets: r.sets + 1, pain, sore: release ? pain : undefined, ended: ends || undefined },
      e,
    );
    if (e.item.endsAll && n >= p.plan.rules.endsSession) {
      setStop(t`Pain of ${n} ends the session. Answer these now; your coach reads it.`);
      return;
    }
    on(after, e);
  };
  return (
    <Page
      title={now.sitting.name}
      aside={<Place kept={p.kept} online={p.online} />}
      back={back}
      foot={
        phase === "before" ? (
          <Main onClick={() => setPhase("work")}>{t`I am set up`}</Main>
        ) : phase === "work" ? (
          <>
            <Main onClick={() => setPhase("pain")}>{t`Set done`}</Main>
            <div className="mt-2 grid grid-cols-3 gap-2">
              <button
                type="button"
                className="btn min-h-12 px-1"
                onClick={() =>
                  on(
                    keep(
                      {
                        cramp: Math.max(1, resultOf(progress, e).cramp ?? e.step.dose.reps ?? 1),
                        ended: true,
                      },
                      e,
                    ),
                    e,
                  )
                }
              >
                {t`Cramp`}
              </button>
              <button
                type="button"
                className="btn min-h-12 px-1"
                onClick={() => on(keep({ couldNot: true }, e), e)}
              >
                {t`Could not`}
              </button>
              <button
                type="button"
                className="btn min-h-12 px-1"
                onClick={() => on(keep({ noTime: true }, e), e)}
              >
                {t`No time`}
              </button>
            </div>
          </>
        ) : null
      }
    >
      <div className="mb-3 flex gap-1" aria-hidden="true">
        {items.map((x) => (
          <span
            key={x.prescriptionId}
            className={`h-2.5 flex-1 border-[1.5px] border-ink ${items.indexOf(x) < items.indexOf(asked.item) ? "bg-ink" : x === asked.item ? "bg-pine" : ""}`}
          />
        ))}
      </div>
      <h2 className="text-[24px] leading-tight">{text?.name ?? asked.item.name}</h2>
      <p className="mb-2 flex flex-wrap items-baseline justify-between gap-x-3">
        <span className="flex items-center gap-2">
          {side(asked)} {t`· set ${asked.set} of ${asked.of}`}
        </span>
        <span className="text-ink-2">{asked.step.load}</span>
      </p>
      {asked.lower > 0 && (
        <p className="mb-2 border-l-4 border-pine pl-2">
          {t`${plural(asked.lower, { one: "One notch", other: "Two notches" })} lower today: ${asked.step.words}`}
        </p>
      )}
      {phase === "before" && (
        <div className="grid grid-cols-1 gap-3">
          <div className="flex justify-center">
            <Shown motion={text?.motion} picture={text?.picture} tempo={shownAt(asked.step)} size={230} />
          </div>
          <p className="text-[18px] font-semibold">{asked.step.words}</p>
          {asked.step.tempo && <p className="text-ink-2">{asked.step.tempo}</p>}
          {(asked.item.note || asked.item.limits) && (
            <p className="font-semibold">{[asked.item.note, asked.item.limits].filter(Boolean).join(". ")}</p>
          )}
          <p>{text?.setUp}</p>
          <ul className="list-disc pl-5">
            {text?.cues.map((c) => (
              <li key={c}>{c}</li>
            ))}
          </ul>
          {text && text.mistakes.length > 0 && (
            <p className="text-ink-2">{t`Not like this: ${text.mistakes.join("; ")}.`}</p>
          )}
          {text?.cautions.map((c) => (
            <p key={c} className="font-semibold">
              {c}
            </p>
          ))}
          <p className="border-l-4 border-clay pl-2">
            {release
              ? t`Sore at ${e.item.slowerAt} or more: ease off. At ${e.item.endsAt} stop this exercise. A pop, numbness or a limp: stop for today.`
              : t`From ${e.item.slowerAt} go slower. At ${e.item.endsAt} stop this exercise. At ${p.plan.rules.endsSession}, a pop, numbness or a limp: stop for today.`}
          </p>
        </div>
      )}
      {phase === "work" && (
        <div className="grid gap-3">
          <Count
            key={`${at}`}
            step={e.step}
            settings={p.settings}
            word={release ? t`keep going` : t`hold`}
            text={text}
          />
          <p className="w-full border-t-3 border-ink bg-paper p-3">
            {text?.cues[0] ? `${text.cues[0]}. ` : ""}
            <b>{t`Stop at ${e.item.endsAt}.`}</b>
          </p>
        </div>
      )}
      {phase === "pain" && (
        <div>
          <p className="mt-4 mb-2 text-[20px] font-semibold">
            {e.item.purpose === "release" ? t`How sore was the worst spot?` : t`Pain in that set?`}
          </p>
          <Scale
            label={t`Pain in that set`}
            value={undefined}
            onPick={painOf}
            low={t`0 none`}
            middle={t`${e.item.slowerAt} ${release ? t`ease` : t`slower`} · ${e.item.endsAt} stop`}
            high={t`10 worst`}
          />
        </div>
      )}
      {phase === "rest" && (
        <>
          {(resultOf(progress, list[at - 1] ?? e).pain ?? 0) >= (list[at - 1] ?? e).item.slowerAt && (
            <p role="status" className="font-bold">
              {t`Slower in the next set.`}
            </p>
          )}
          <Rest
            seconds={
              firstOfItem ? (routine ? 10 : 20) : e.side !== list[at - 1]?.side ? 10 : e.step.restSeconds
            }
            settings={p.settings}
            done={() => setPhase("work")}
          />
          <p className="text-center text-ink-2">
            {t`next: ${e.side.side === "both" ? "" : `${sideName(e.side.side)}, `}set ${e.set} of ${e.of}`}
          </p>
        </>
      )}
      {phase === "after" && (
        <After
          p={p}
          e={asked}
          progress={progress}
          keep={(part) => keep(part, asked, at)}
          done={() => setPhase(nextAt(list, progress, progress.at) >= list.length ? "end" : "before")}
        />
      )}
    </Page>
  );
}
