import { t } from "@lingui/core/macro";
import { dayMonth, weekDay } from "../../parts/dates";
import { sideName } from "../../parts/sidename";
import { Card, Main, Scale } from "./kit";
import {
  addDays,
  emergency,
  idOf,
  morningTold,
  noRunning,
  openOn,
  silence,
  sittingsOf,
  sittingTold,
  whyNot,
} from "./rules";
import type { Ready } from "./usepocket";

export type Go =
  | { to: "morning"; on: string; first?: number }
  | { to: "new" }
  | { to: "run"; on: string }
  | { to: "session"; id: string }
  | { to: "earlier"; on: string }
  | { to: "five" }
  | { to: "more" }
  | { to: "care" };

const capital = (s: string) => s.charAt(0).toUpperCase() + s.slice(1);

/** What now: the morning, the sessions, the run, the ramp, what rests and why. */
export function Today({ p, go }: { p: Ready; go: (g: Go) => void }) {
  const { plan, local, today } = p;
  const day = plan.days.find((d) => d.on === today);
  const sittings = sittingsOf(plan, local, today, p.now.getTime());
  const open = sittings.filter((s) => !sittingTold(plan, p.kept, today, idOf(s.sitting)));
  const stopped = whyNot(plan, local, today, p.now.getTime());
  const told = morningTold(plan, p.kept, today);
  const next =
    p.progress && p.progress.on === today
      ? sittings.find((s) => idOf(s.sitting) === p.progress?.kind)
      : open[0];
  const yesterday = addDays(today, -1);
  const openYesterday = !morningTold(plan, p.kept, yesterday);
  const place = plan.places[0];
  const clock = plan.devices.find((d) => d.this)?.clockOff;
  const quiet = silence(plan, p.now.getTime()) > plan.rules.quietDays;
  const run = day?.run && !noRunning(plan, local) ? day.run : "";
  const done = (stage: string) =>
    p.kept.some((k) => k.report.kind === "ramp" && k.report.on === today && k.report.ramp?.stage === stage);
  const coach = plan.notes.filter((n) => !n.mine && !n.read);
  return (
    <>
      {!told && !emergency(plan, local) && (
        <section className="mb-4">
          <h2 className="mb-2 text-[26px] leading-tight">{t`Hello, ${plan.firstName}. First steps today?`}</h2>
          <Scale
            label={t`First steps today`}
            value={undefined}
            onPick={(n) => go({ to: "morning", on: today, first: n })}
            low={t`0 nothing`}
            middle={place ? t`your usual is ${Math.round(place.usual)}` : undefined}
            high={t`10 worst`}
          />
        </section>
      )}
      {coach.map((n) => (
        <div key={n.id} className="mb-3 border-l-4 border-pine bg-paper p-3">
          <p className="text-[14px] text-ink-2">
            {n.by || t`Your coach`}, {dayMonth(n.at.slice(0, 10))}
          </p>
          <p className="whitespace-pre-line">{n.text}</p>
        </div>
      ))}
      <div className="grid gap-2.5">
        {plan.caps.map((c) => (
          <Card key={c} tone="clay">
            {c}
          </Card>
        ))}
        {clock && (
          <Card tone="clay">
            <b>{t`Put this phone's clock right`}</b>
            <p>{t`${clock} What you tell stands under the wrong day.`}</p>
          </Card>
        )}
        {quiet && (
          <Card tone="clay">
            <b>{t`Not heard of for over a week`}</b>
            <p>{t`This phone shows release, range and steering until it has a connection again.`}</p>
          </Card>
        )}
        {sittings.map((s) => (
          <Card key={idOf(s.sitting)} tone={s === next ? "pine" : "ink"}>
            <p className="flex items-baseline justify-between gap-3">
              <b className="display text-[19px]">{s.sitting.name}</b>
              <span className="text-ink-2">{s.sitting.minutes > 0 && t`${s.sitting.minutes} min`}</span>
            </p>
            {s.sitting.when && <p className="text-ink-2">{s.sitting.when}</p>}
            <p>{[...new Set(s.todo.map((it) => it.item.name))].join(", ")}</p>
            {s.sitting.routine?.dropped.map((x) => (
              <p key={x} className="text-[15px] text-ink-2">
                {t`not now: ${x}`}
              </p>
            ))}
            {sittingTold(plan, p.kept, today, idOf(s.sitting)) ? (
              <p className="font-semibold text-pine">{t`done`}</p>
            ) : (
              s !== next &&
              !p.progress && (
                <button
                  type="button"
                  className="min-h-11 underline underline-offset-4"
                  onClick={() => go({ to: "session", id: idOf(s.sitting) })}
                >
                  {t`Do this one first`}
                </button>
              )
            )}
          </Card>
        ))}
        {next && (
          <Main onClick={() => go({ to: "session", id: idOf(next.sitting) })}>
            {p.progress ? t`Go on` : t`Start`}: {next.sitting.name.toLowerCase()}
          </Main>
        )}
        {run && (
          <Card>
            <p className="flex items-baseline justify-between gap-3">
              <b className="display text-[19px]">
                {day?.race ? t`Race` : capital(day?.runs || t`${run} run`)}
              </b>
              <button
                type="button"
                className="underline underline-offset-4"
                onClick={() => go({ to: "run", on: today })}
              >
                {t`Tell it`}
              </button>
            </p>
            <p className="text-ink-2">{day?.runNote || plan.advice}</p>
          </Card>
        )}
        {!run && day?.runNote && (
          <Card tone="clay">
            <b>{t`No run today`}</b>
            <p>{day.runNote}</p>
          </Card>
        )}
        {!local.stopped &&
          day?.ramp.map((x) => (
            <p key={x.stage} className="flex items-center justify-between gap-3 border-b border-rule py-2">
              <span>
                <b>{x.name}</b> {x.words}
              </span>
              {x.stage === "cadence" || x.stage === "cue" ? null : x.done || done(x.stage) ? (
                <b className="text-pine">{t`done`}</b>
              ) : (
                <button
                  type="button"
                  className="btn min-h-12"
                  onClick={() =>
                    void p.tell({ kind: "ramp", on: today, ramp: { stage: x.stage, done: true } })
                  }
                >
                  {t`Done`}
                </button>
              )}
            </p>
          ))}
        {stopped.length > 0 && (
          <Card tone="clay">
            <b className="display text-[19px]">{t`Not today`}</b>
            {stopped.map((s) => (
              <p key={s.why} className="mt-1">
                {s.name}: {s.why}
              </p>
            ))}
          </Card>
        )}
        {plan.paused.length > 0 && (
          <Card>
            <b>{t`Rests for now`}</b>
            {plan.paused.map((x) => (
              <p key={`${x.ladder}${x.side}`}>
                {x.name}
                {x.side === "both" ? "" : `, ${sideName(x.side)}`}: {x.words}
                {x.instead ? t`. Meanwhile: ${x.instead}` : ""}
              </p>
            ))}
          </Card>
        )}
        {day?.retest && !local.stopped && (
          <p className="font-semibold">{t`Tested again today: ${day.retest}.`}</p>
        )}
        {!day && <p className="text-ink-2">{t`Nothing is planned for ${weekDay(today)}.`}</p>}
        {openYesterday && (
          <Row
            label={t`Yesterday's first steps are open`}
            act={t`tell them`}
            onClick={() => go({ to: "morning", on: yesterday })}
          />
        )}
        {openOn(plan, p.kept, yesterday).length > 0 && (
          <Row
            label={t`Yesterday's session is open`}
            act={t`tell it`}
            onClick={() => go({ to: "earlier", on: yesterday })}
          />
        )}
        <Row
          label={t`Ran without a plan?`}
          act={t`tell a run`}
          onClick={() => go({ to: "run", on: today })}
        />
        <Row
          label={t`Something from an earlier day?`}
          act={t`tell it`}
          onClick={() => go({ to: "earlier", on: yesterday })}
        />
        <Row
          label={t`Only five minutes? Feeling strong?`}
          act={t`what goes`}
          onClick={() => go({ to: "five" })}
        />
        <Row
          label={t`Something new hurts, or hurts more?`}
          act={t`tell it`}
          onClick={() => go({ to: "new" })}
          strong
        />
      </div>
    </>
  );
}

function Row({
  label,
  act,
  onClick,
  strong,
}: {
  label: string;
  act: string;
  onClick: () => void;
  strong?: boolean;
}) {
  return (
    <button
      type="button"
      className="flex min-h-12 w-full items-center justify-between gap-3 border-b border-rule text-left"
      onClick={onClick}
    >
      <span className={strong ? "" : "text-ink-2"}>{label}</span>
      <span className={`underline underline-offset-4 ${strong ? "font-bold text-clay" : ""}`}>{act}</span>
    </button>
  );
}
