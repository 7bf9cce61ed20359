import { t } from "@lingui/core/macro";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, need, Problem, type Schema } from "../../api/client";
import { Shown } from "../../parts/motion";
import { Drawing } from "../../parts/picture";

type Turned = Schema["OwnExercise"]["turned"];
type Ends = [Record<string, number>, Record<string, number>];

const angleName: Record<string, string> = {
  trunk: t`trunk`,
  hip: t`hip`,
  knee: t`knee`,
  ankle: t`ankle`,
  toes: t`toes`,
  open: t`knee out`,
  farHip: t`other hip`,
  farKnee: t`other knee`,
  farAnkle: t`other ankle`,
  farToes: t`other toes`,
  shoulder: t`shoulder`,
  elbow: t`elbow`,
  farShoulder: t`other shoulder`,
  farElbow: t`other elbow`,
  neck: t`neck`,
  lift: t`height over the floor`,
  shin: t`shin`,
  heel: t`heel`,
  big: t`big toe`,
  small: t`small toes`,
  arch: t`arch`,
  pitch: t`front of the foot`,
  spread: t`spread`,
  curl: t`curl`,
  turn: t`turn`,
  drift: t`big toe leans`,
  roll: t`roll`,
  rise: t`heels up`,
  farRoll: t`other roll`,
  farRise: t`other heel up`,
  farLift: t`other foot up`,
  apart: t`feet apart`,
  out: t`knees out`,
};

/** The drawing of an own exercise: two poses taken over, their angles turned, seen at once. */
export function Turning({
  start,
  end,
  part,
  turned,
  onTurn,
}: {
  start: string;
  end: string;
  part: string;
  turned: Ends;
  onTurn: (t: Ends) => void;
}) {
  const both = start !== "" && end !== "";
  const drawn = useQuery({
    queryKey: ["figure", start, end, part, turned],
    queryFn: () =>
      need(
        api.POST("/api/compute/figure", {
          body: { start, end, part: part || undefined, turned: turned as NonNullable<Turned> },
        }),
      ),
    enabled: both,
    placeholderData: keepPreviousData,
    retry: false,
  });
  if (!both)
    return (
      <p className="mt-2 text-[14px] text-ink-2">
        {t`Choose a start and an end to see them drawn. Without a drawing the text stands alone.`}
      </p>
    );
  const d = drawn.data;
  const why = drawn.error;
  return (
    <div className="mt-3">
      <div className="flex flex-wrap items-end gap-3">
        {d && (
          <>
            <Drawing parts={d.start} size={140} />
            <Drawing parts={d.end} size={140} />
            <Shown motion={d} picture={undefined} tempo={{ up: 2, hold: 1, down: 2, low: 0.6 }} size={140} />
          </>
        )}
      </div>
      {why && (
        <p role="alert" className="mt-1 font-semibold text-clay">
          {why instanceof Problem ? (Object.values(why.fields ?? {})[0] ?? why.message) : why.message}
        </p>
      )}
      {d && (
        <details className="mt-2">
          <summary className="btn-quiet">{t`Turn the angles`}</summary>
          <table className="mt-1 text-[14px]">
            <thead>
              <tr className="text-left">
                <th scope="col" className="pr-4">
                  {t`Angle`}
                </th>
                <th scope="col" className="pr-4">
                  {t`Start`}
                </th>
                <th scope="col" className="pr-4">
                  {t`End`}
                </th>
                <th scope="col">{t`What it does`}</th>
              </tr>
            </thead>
            <tbody>
              {d.ranges.map((r) => (
                <tr key={r.name} className="border-t border-rule">
                  <th scope="row" className="pr-4 text-left font-normal">
                    {angleName[r.name] ?? r.name}
                  </th>
                  {([0, 1] as const).map((i) => (
                    <td key={i} className="py-0.5 pr-4">
                      <input
                        type="number"
                        className="field w-24"
                        aria-label={
                          i === 0
                            ? t`${angleName[r.name] ?? r.name}, start`
                            : t`${angleName[r.name] ?? r.name}, end`
                        }
                        min={r.low}
                        max={r.high}
                        step={r.unit === "degrees" ? 2 : r.unit === "units" ? 1 : 0.1}
                        value={turned[i][r.name] ?? d.angles?.[i]?.[r.name] ?? ""}
                        placeholder={r.optional ? t`follows` : "0"}
                        onChange={(e) => {
                          const next: Ends = [{ ...turned[0] }, { ...turned[1] }];
                          if (e.target.value === "") delete next[i][r.name];
                          else next[i][r.name] = Number(e.target.value);
                          onTurn(next);
                        }}
                      />
                    </td>
                  ))}
                  <td className="text-ink-2">{r.says}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <button type="button" className="btn mt-2" onClick={() => onTurn([{}, {}])}>
            {t`As the poses are`}
          </button>
        </details>
      )}
    </div>
  );
}
