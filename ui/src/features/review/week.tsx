import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { Schema } from "../../api/client";
import { weekDay } from "../../parts/dates";
import { distance, unit } from "../../parts/measures";
import { km } from "../running/hooks";
import type { Week } from "./review";

export const shift = (iso: string, n: number) =>
  new Date(new Date(`${iso}T00:00:00Z`).getTime() + n * 86_400_000).toISOString().slice(0, 10);

/** Runs, sessions and pain of the week in one strip, and what running says. */
export function WeekStrip({ v }: { v: Week }) {
  return (
    <section
      aria-label={t`The week`}
      className="mb-6 grid gap-x-8 gap-y-4 lg:grid-cols-[minmax(0,1fr)_22rem]"
    >
      <section
        className="relative min-w-0 overflow-x-auto"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
        tabIndex={0}
        aria-label={t`Days of the week, scrolls sideways`}
      >
        <table className="w-full min-w-[38rem] table-fixed border-collapse text-[14px]">
          <thead>
            <tr className="border-b-2 border-ink text-left">
              <th scope="col" className="w-24 py-1">
                <span className="sr-only">{t`What`}</span>
              </th>
              {v.days.map((d) => (
                <th key={d.on} scope="col" className="py-1 font-semibold">
                  {weekDay(d.on).slice(0, 6)}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            <Line name="First steps" days={v.days} of={(d) => d.firstStep} />
            <Line name="At rest" days={v.days} of={(d) => d.rest} />
            <tr className="border-b border-rule">
              <th scope="row" className="py-1 text-left font-normal text-ink-2">
                {t`Session`}
              </th>
              {v.days.map((d) => (
                <td key={d.on}>
                  {d.logged ? (
                    <b className="text-pine">{t`done${d.pain !== undefined ? t`, pain ${d.pain}` : ""}`}</b>
                  ) : d.plannedMinutes > 0 ? (
                    <span className="text-ink-2">{t`${d.plannedMinutes}′ open`}</span>
                  ) : (
                    ""
                  )}
                </td>
              ))}
            </tr>
            <tr className="border-b border-rule">
              <th scope="row" className="py-1 text-left font-normal text-ink-2">
                {t`Run`}
              </th>
              {v.days.map((d) => (
                <td key={d.on}>
                  {d.km > 0 && (
                    <>
                      <Trans>
                        <b>{km(d.km * 1000)}</b> {unit("km")}
                      </Trans>
                      {d.runPain !== undefined && d.runPain > 0 && (
                        <span className="text-clay">{t` pain ${d.runPain}`}</span>
                      )}
                    </>
                  )}
                </td>
              ))}
            </tr>
            {v.days.some((d) => d.notes.length > 0) && (
              <tr>
                <th scope="row" className="py-1 text-left font-normal text-ink-2">
                  {t`Notes`}
                </th>
                {v.days.map((d) => (
                  <td key={d.on} className="pr-1 align-top text-[13px]">
                    {d.notes.join(", ")}
                  </td>
                ))}
              </tr>
            )}
          </tbody>
        </table>
      </section>
      <div className="text-[14px]">
        <p className="text-[15px]">
          <b>{v.week ? distance(v.week.metres) : t`No runs`}</b> {v.week?.words}
        </p>
        <p>
          <b>{v.advice}</b> <span className="text-ink-2">{t`Because ${v.adviceWhy}.`}</span>
        </p>
        {v.warning && <p className="font-semibold text-clay">▲ {v.warning}</p>}
        {v.look.map((l) => (
          <p key={l} className="text-ink-2">
            {l}
          </p>
        ))}
      </div>
    </section>
  );
}

function Line({
  name,
  days,
  of,
}: {
  name: string;
  days: readonly Schema["ReviewDay"][];
  of: (d: Schema["ReviewDay"]) => number | undefined;
}) {
  if (name === "At rest" && days.every((d) => of(d) === undefined)) return null;
  return (
    <tr className="border-b border-rule">
      <th scope="row" className="py-1 text-left font-normal text-ink-2">
        {name}
      </th>
      {days.map((d) => (
        <td key={d.on}>
          {of(d) === undefined ? <span className="text-ink-2">{t`not known`}</span> : <b>{of(d)}</b>}
        </td>
      ))}
    </tr>
  );
}
