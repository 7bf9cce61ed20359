import { t } from "@lingui/core/macro";
import type { RefObject } from "react";
import { NoConnection, Problem, type Schema } from "../../api/client";
import { SideName, Title } from "../../parts/marks";
import { Reasons, Source } from "../../parts/reasons";
import { sourceText } from "../../parts/source";
import { Send } from "./send";
import type { Clip } from "./upload";

export type Judged = Schema["ClipJudged"];

/** Draws the picture on show with its marks, at most so wide. */
export type Shot = RefObject<((most?: number) => Promise<Blob | null>) | null>;

/** A value with as many digits as it carries. */
export const digits = (j: Judged) => j.value.toFixed(j.unit === "°" || j.unit === "cm" ? 1 : 0);

/** What the events give: cadence, contact, flight, the spring. */
export function Times({
  gait: g,
  times,
  spring,
  clip,
  shot,
}: {
  gait: Schema["MeasureGait"];
  times: readonly Judged[];
  spring: Schema["MeasureSpringMass"] | undefined;
  clip: Clip;
  shot?: Shot;
}) {
  return (
    <div className="mt-5">
      <Title aside={t`${g.steps} steps; a frame is ${g.frameMs.toFixed(1)} ms`}>{t`Times`}</Title>
      {times.map((j) => (
        <Row key={`${j.measure}${j.side}`} j={j} clip={clip} shot={shot} />
      ))}
      <dl className="mt-2 grid grid-cols-[1fr_auto] gap-x-4 text-[14px]">
        {!!g.duty && (
          <>
            <dt>{t`contact, share of the stride`}</dt>
            <dd className="text-right">{Math.round(100 * g.duty)} %</dd>
          </>
        )}
        {g.differencePercent !== undefined && (
          <>
            <dt>{t`left against right`}</dt>
            <dd className="text-right">
              {g.differencePercent > 0 ? "+" : ""}
              {g.differencePercent.toFixed(1)} ± {(g.differenceMargin ?? 0).toFixed(1)} %
            </dd>
          </>
        )}
        {spring && (
          <>
            <dt>{t`highest force`}</dt>
            <dd className="text-right">{t`${spring.bodyWeights.toFixed(2)} body weights`}</dd>
            <dt>{t`leg stiffness`}</dt>
            <dd className="text-right">{t`${spring.legKNm.toFixed(1)} kN/m`}</dd>
          </>
        )}
      </dl>
      {g.says.map((s) => (
        <p key={s} className="mt-1 text-[14px]">
          {s}
        </p>
      ))}
    </div>
  );
}

/** A measure; one press sends it into the screening's test. */
export function Row({
  j,
  clip,
  shot,
  from = "steps",
}: {
  j: Judged;
  clip: Clip;
  shot?: Shot;
  /** What of the clip it was read from, so that a correction replaces it. */
  from?: string;
}) {
  const unit = j.unit === "°" ? "°" : ` ${j.unit}`;
  return (
    <div className="border-b border-rule py-1.5">
      <p className="flex items-baseline gap-2">
        <span className="flex-1">
          {j.name} {j.side !== "both" && <SideName side={j.side} />}
        </span>
        <b className="display text-[20px]">
          {digits(j)}
          {unit}
        </b>
        <span className="w-16 text-[14px] text-ink-2">± {j.margin.toFixed(1)}</span>
      </p>
      <p className="flex flex-wrap items-center gap-x-3 text-[14px]">
        {j.class && (
          <b>
            {j.class}
            {j.unsure && j.class !== "uncertain" && t`, unsure`}
          </b>
        )}
        {j.verdict && j.verdict !== "noted" && (
          <span
            className={
              j.verdict === "limited" ? "font-semibold text-clay" : j.verdict === "ok" ? "text-pine" : ""
            }
          >
            {j.verdict}
            {j.unsure && !j.class && t`, unsure`}
          </span>
        )}
        {j.by && j.by !== "by hand" && (
          <span className="text-ink-2">
            {j.by}
            {j.accepted && t`, looked at`}
          </span>
        )}
        {j.between && <span className="text-ink-2">{t`between two frames`}</span>}
        {!!j.frame && j.frame > j.margin / 2 && (
          <span className="text-ink-2">{t`± ${j.frame.toFixed(1)} of it the frame`}</span>
        )}
        {!!j.n && j.n > 1 && <span className="text-ink-2">{t`${j.n} steps`}</span>}
        {j.percentOfLeg !== undefined && <span>{t`${Math.round(j.percentOfLeg)} % of the leg`}</span>}
        {j.surer && (
          <Reasons label={t`Make this more certain`} title={j.name}>
            <p>{j.surer}</p>
            <Source text={sourceText(j.source)} />
          </Reasons>
        )}
        {j.test && j.class !== "uncertain" && <Send j={j} clip={clip} shot={shot} from={from} />}
      </p>
    </div>
  );
}

export type Screening = Schema["Screening"];

/** Says of a trial who placed the points, how sure it is, and keeps its picture. */
export async function origin(
  screening: string,
  j: Judged,
  slot: number,
  mark: string,
  picture: Blob | null | undefined,
) {
  const how = new URLSearchParams({ made: j.by || "by hand", margin: j.margin.toFixed(3), mark });
  const res = await fetch(`/api/screenings/${screening}/trials/${j.test}/${j.side}/${slot}/origin?${how}`, {
    method: "PUT",
    headers: { "Content-Type": "image/png" },
    body: picture ?? new Blob(),
  }).catch(() => {
    throw new NoConnection();
  });
  if (!res.ok) throw new Problem(res.status, await res.json());
}
