import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Link } from "react-router";
import type { Schema } from "../../api/client";
import { dayMonth } from "../../parts/dates";
import { HurtMap } from "../../parts/limbs";
import { DecisionMark, SideName, Title, verdictHue } from "../../parts/marks";
import type { Bar } from "../../parts/places";
import { NotchRail } from "../../parts/rail";
import { folded } from "../block/decision";

type Block = Schema["Block"];
type Prescription = Schema["PrescriptionView"];

/** Where it hurts, drawn and in words, and in which phase each region is. */
export function Hurts({ bar, block }: { bar: Bar; block?: Block }) {
  const told = bar.days.findLast((d) => d.firstStep !== undefined);
  const sore = block && told && (told.firstStep ?? 0) > 0 ? told : undefined;
  return (
    <section aria-label={t`Where it hurts`} className="mb-6">
      <Title>{t`Where it hurts`}</Title>
      <HurtMap hurts={bar.hurts} />
      {bar.hurts.length === 0 ? (
        sore ? (
          <p className="mt-2">
            <Trans>
              First steps {sore.firstStep} of 10 on {dayMonth(sore.on)}; no place was reported.{" "}
              <Link className="underline underline-offset-4" to={`/runners/${bar.id}/log#day`}>
                Add the place
              </Link>
            </Trans>
          </p>
        ) : (
          <p className="mt-2 text-ink-2">{t`No painful place is reported.`}</p>
        )
      ) : (
        <ul className="mt-2">
          {bar.hurts.map((h) => (
            <li key={h.zone + h.side} className="flex items-center gap-2 py-0.5">
              <b className="first-letter:uppercase">{h.name}</b> {h.side && <SideName side={h.side} />}
              <span className="ml-auto">{t`${h.pain} of 10`}</span>
            </li>
          ))}
        </ul>
      )}
      {block && phases(block).length > 0 && (
        <ul className="mt-2 text-[14px] text-ink-2">
          {phases(block).map((p) => (
            <li key={p} className="first-letter:uppercase">
              {p}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

/** "sole, front shin: calm since 12 Nov", regions alike together. */
function phases(b: Block): string[] {
  const by = new Map<string, string[]>();
  for (const p of b.phases) {
    const since = b.phaseSince?.[p.region];
    const key = t`${p.phase} phase${since ? t` since ${dayMonth(since)}` : ""}`;
    by.set(key, [...(by.get(key) ?? []), p.name]);
  }
  return [...by].map(
    ([k, who]) => `${who.length === b.phases.length ? t`all regions` : who.join(", ")}: ${k}`,
  );
}

const datesShown = 5;

/** The next dates: sessions, tests, runs of the ramp, the end. */
export function NextDates({ b }: { b: Block }) {
  const list = b.weeks
    .flatMap((w) => w.days)
    .filter((d) => d.in && d.on >= b.today && !(d.on === b.today && d.logged))
    .flatMap((d) => {
      const parts = [
        ...d.sessions.map((s) => `${s.name.toLowerCase()}${s.minutes ? t`, ${s.minutes} min` : ""}`),
        ...(d.retest
          ? [
              `test again: ${d.retest.split(", ").slice(0, 3).join(", ")}${d.retest.split(", ").length > 3 ? " …" : ""}`,
            ]
          : []),
        ...(d.race ? ["race"] : []),
      ];
      return parts.length > 0 ? [{ on: d.on, parts }] : [];
    })
    .slice(0, datesShown);
  return (
    <section aria-label={t`Next dates`} className="mb-6">
      <Title
        aside={
          <Link className="btn-quiet" to={`/runners/${b.runnerId}/print`}>
            {t`Print`}
          </Link>
        }
      >
        {t`Next`}
      </Title>
      <dl className="grid grid-cols-[4.2rem_minmax(0,1fr)] gap-y-1">
        {list.map((d) => (
          <div key={d.on} className="contents">
            <dt className={d.on === b.today ? "font-semibold" : ""}>
              {d.on === b.today ? t`Today` : dayMonth(d.on)}
            </dt>
            <dd>
              {d.parts.map((p) => (
                <span key={p} className="block first-letter:uppercase">
                  {p}
                </span>
              ))}
            </dd>
          </div>
        ))}
        <div className="contents text-ink-2">
          <dt>{dayMonth(b.endOn)}</dt>
          <dd>{t`The block ends`}</dd>
        </div>
      </dl>
    </section>
  );
}

/** Every ladder in one line: its dose, where the pegs stand, what was decided last. */
export function Ladders({ b }: { b: Block }) {
  const here = b.prescriptions.filter((p) => !p.leftOut && !p.routine);
  const waiting = here.flatMap((p) => p.latest).filter((d) => d.state === "proposed").length;
  const shared = sharedReasons(here);
  return (
    <section aria-label={t`Ladders`} className="mb-6">
      <Title aside={t`a step up waits for you; a step back applies at once`}>{t`Ladders`}</Title>
      {waiting > 0 && (
        <p className="mb-1 flex flex-wrap items-center gap-3">
          <b className="text-pine">
            {t`${waiting} ${plural(waiting, { one: "step up waits", other: "steps up wait" })} for you.`}
          </b>
          <Link className="btn min-h-9" to={`/review/${b.runnerId}`}>
            {t`Review the week`}
          </Link>
        </p>
      )}
      {shared.map((r) => (
        <p key={r} className="py-1 text-[14px]">
          <b>{mark(shared.indexOf(r))}</b> {r}.
        </p>
      ))}
      <ul>
        {here.map((p) => (
          <Line key={p.id} p={p} shared={shared} off={b.paused.filter((x) => x.name === p.name)} />
        ))}
      </ul>
    </section>
  );
}

/** The first reason of a decision; the block has the others. */
const reason = (because: string) => because.split("; ")[0] ?? "";

const mark = (n: number) => ["*", "†", "‡"][n] ?? "";

const sharedBy = 3;

/** What is the same on several rows is said once and marked on each. */
function sharedReasons(list: readonly Prescription[]): string[] {
  const by = new Map<string, number>();
  for (const p of list)
    for (const r of new Set(p.latest.map((d) => reason(d.because)))) by.set(r, (by.get(r) ?? 0) + 1);
  return [...by]
    .filter(([r, n]) => r && n >= sharedBy)
    .map(([r]) => r)
    .slice(0, 3);
}

function Line({ p, shared, off }: { p: Prescription; shared: string[]; off: Block["paused"] }) {
  const at = (side: "left" | "right") => p.pegs.find((k) => k.side === side)?.notch ?? 1;
  const stopped = p.pegs.filter((k) => k.stopped);
  const even = at("left") === at("right");
  const gone = off.every((x) => !x.instead) && (off.some((x) => x.side === "both") || off.length >= 2);
  const dose = (side: "left" | "right") => p.notches[at(side) - 1]?.words ?? "";
  return (
    <li className="grid items-center gap-x-5 gap-y-0.5 border-b border-rule py-2 md:grid-cols-[minmax(0,12rem)_minmax(0,20rem)_minmax(0,1fr)]">
      <div className="min-w-0">
        <h3 className="text-[16px] leading-tight">{p.name}</h3>
        {stopped.length === p.pegs.length ? (
          <p className="text-[14px] text-clay">{t`stopped`}</p>
        ) : gone ? (
          <p className="text-[14px] text-clay">{t`not done now`}</p>
        ) : even ? (
          <p className="text-[14px] text-ink-2">{dose("left")}</p>
        ) : (
          (["left", "right"] as const).map((s) => (
            <p key={s} className="flex items-center gap-1.5 text-[14px] text-ink-2">
              <SideName side={s} /> {stopped.some((k) => k.side === s) ? t`stopped` : dose(s)}
            </p>
          ))
        )}
      </div>
      <NotchRail name={p.name} notches={p.notches} pegs={p.pegs} together={p.together} />
      <div className="min-w-0 text-[14px] leading-snug">
        {p.latest.length === 0 && off.length === 0 && <p className="text-ink-2">{t`no session yet`}</p>}
        {stopped.length < p.pegs.length &&
          off.map((x) => (
            <p key={x.side}>
              {x.side !== "both" && <SideName side={x.side} />}{" "}
              <span className="first-letter:uppercase">{x.words}</span>
              {x.instead && <b>{t` Meanwhile ${x.instead}.`}</b>}
            </p>
          ))}
        {folded(p.latest).map((ds) => {
          const d = ds[0];
          return (
            <p key={d.id}>
              <span
                className={`mr-1.5 inline-flex items-center gap-1.5 text-[15px] font-semibold ${verdictHue[d.decision.verdict]}`}
              >
                <DecisionMark verdict={d.decision.verdict} />
                {d.putBack ? t`put back` : d.decision.resume ? t`start again` : d.decision.verdict}
              </span>
              {ds.length === 1 && d.side !== "both" && <SideName side={d.side} />}{" "}
              {d.state === "proposed" && <span className="text-pine">{t`waits for you · `}</span>}
              <span className="text-ink-2">
                {shared.includes(reason(d.because)) ? (
                  <b>{mark(shared.indexOf(reason(d.because)))}</b>
                ) : (
                  reason(d.because)
                )}
              </span>
            </p>
          );
        })}
      </div>
    </li>
  );
}

/** What a runner without a plan needs: three steps, each with what it takes. */
export function FirstSteps({ bar }: { bar: Bar }) {
  const screened = !!bar.lastScreening;
  const steps = [
    {
      name: t`Screen`,
      done: screened,
      takes:
        "8 minutes quick, 20 to 25 whole. A tape measure, a wall and a step; a phone to film, if you like.",
    },
    {
      name: t`Plan the block`,
      done: false,
      takes: t`3 minutes: the week, the kit, what hurts. The plan is made while you type, with its reasons.`,
    },
    {
      name: t`Hand it over`,
      done: false,
      takes: t`1 minute: print it, or give the runner a link for the phone. What is reported comes back here.`,
    },
  ];
  const now = steps.findIndex((s) => !s.done);
  return (
    <section aria-label={t`Three steps to a plan`} className="mb-6 max-w-3xl">
      <Title>{t`Three steps to a plan`}</Title>
      <ol className="grid gap-0">
        {steps.map((s, i) => (
          <li key={s.name} className="flex gap-4 border-b border-rule py-3">
            <span
              className={`display grid size-9 flex-none place-items-center rounded-full border-2 text-[17px] font-semibold ${s.done ? "border-pine bg-pine text-chalk" : i === now ? "border-ink" : "border-rule text-ink-2"}`}
            >
              {s.done ? "✓" : i + 1}
            </span>
            <div className={i === now || s.done ? "" : "text-ink-2"}>
              <h3>
                {s.name}
                {s.done && (
                  <span className="ml-2 font-sans text-[14px] font-normal text-pine">{t`done`}</span>
                )}
              </h3>
              <p className="text-[14px]">{s.takes}</p>
            </div>
          </li>
        ))}
      </ol>
    </section>
  );
}
