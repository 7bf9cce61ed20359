import { useMutation, useQueryClient } from "@tanstack/react-query";
import type { RefObject } from "react";
import { api, NoConnection, need, Problem, type Schema } from "../../api/client";
import { useScreening } from "../../api/hooks";
import { SideName, Title } from "../../parts/marks";
import { Reasons, Source } from "../../parts/reasons";
import { sourceText } from "../../parts/source";
import { SaveState } from "../../parts/states";
import type { Clip } from "./upload";

type Judged = Schema["ClipJudged"];

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
      <Title aside={`${g.steps} steps; a frame is ${g.frameMs.toFixed(1)} ms`}>Times</Title>
      {times.map((j) => (
        <Row key={`${j.measure}${j.side}`} j={j} clip={clip} shot={shot} />
      ))}
      <dl className="mt-2 grid grid-cols-[1fr_auto] gap-x-4 text-[14px]">
        {!!g.duty && (
          <>
            <dt>contact, share of the stride</dt>
            <dd className="text-right">{Math.round(100 * g.duty)} %</dd>
          </>
        )}
        {g.differencePercent !== undefined && (
          <>
            <dt>left against right</dt>
            <dd className="text-right">
              {g.differencePercent > 0 ? "+" : ""}
              {g.differencePercent.toFixed(1)} ± {(g.differenceMargin ?? 0).toFixed(1)} %
            </dd>
          </>
        )}
        {spring && (
          <>
            <dt>highest force</dt>
            <dd className="text-right">{spring.bodyWeights.toFixed(2)} body weights</dd>
            <dt>leg stiffness</dt>
            <dd className="text-right">{spring.legKNm.toFixed(1)} kN/m</dd>
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
export function Row({ j, clip, shot }: { j: Judged; clip: Clip; shot?: Shot }) {
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
            {j.unsure && j.class !== "uncertain" && ", unsure"}
          </b>
        )}
        {j.verdict && j.verdict !== "noted" && (
          <span
            className={
              j.verdict === "limited" ? "font-semibold text-clay" : j.verdict === "ok" ? "text-pine" : ""
            }
          >
            {j.verdict}
            {j.unsure && !j.class && ", unsure"}
          </span>
        )}
        {j.by && j.by !== "by hand" && (
          <span className="text-ink-2">
            {j.by}
            {j.accepted && ", looked at"}
          </span>
        )}
        {!!j.n && j.n > 1 && <span className="text-ink-2">{j.n} steps</span>}
        {j.percentOfLeg !== undefined && <span>{Math.round(j.percentOfLeg)} % of the leg</span>}
        {j.surer && (
          <Reasons label="surer?" title={j.name}>
            <p>{j.surer}</p>
            <Source text={sourceText(j.source)} />
          </Reasons>
        )}
        {j.test && j.class !== "uncertain" && <Send j={j} clip={clip} shot={shot} />}
      </p>
    </div>
  );
}

const slots = 5;

type Screening = Schema["Screening"];

/** The trials of a reading's test and side. */
const taken = (s: Screening | undefined, j: Judged) =>
  (s?.trials ?? []).filter((t) => t.test === j.test && t.side === j.side);

/** The first trial that is free for a reading, undefined where all are taken. */
const freeSlot = (s: Screening | undefined, j: Judged) =>
  Array.from({ length: slots }, (_, k) => k + 1).find((k) => !taken(s, j).some((t) => t.slot === k));

/** Whether a reading stands in the screening already. */
export const isIn = (s: Screening | undefined, j: Judged) =>
  taken(s, j).some((t) => t.value === Number(digits(j)));

/** Puts readings into the screening's tests, each with where it comes from and the picture. */
export function useSend(clip: Clip, shot?: Shot) {
  const qc = useQueryClient();
  return useMutation({
    mutationFn: async (list: readonly Judged[]) => {
      const picture = await shot?.current?.(1280);
      let s = qc.getQueryData<Screening>(["screening", clip.screeningId]);
      let left = 0;
      for (const j of list) {
        const slot = freeSlot(s, j);
        if (!slot || !j.test || isIn(s, j)) {
          if (!isIn(s, j)) left++;
          continue;
        }
        s = await need(
          api.PUT("/api/screenings/{id}/trials/{test}/{side}/{slot}", {
            params: { path: { id: clip.screeningId, test: j.test, side: j.side, slot } },
            body: { value: Number(digits(j)) },
          }),
        );
        qc.setQueryData(["screening", clip.screeningId], s);
        await origin(clip.screeningId, j, slot, picture);
      }
      return left;
    },
    onSettled: () => void qc.invalidateQueries({ queryKey: ["origins", clip.screeningId] }),
  });
}

function Send({ j, clip, shot }: { j: Judged; clip: Clip; shot?: Shot }) {
  const s = useScreening(clip.screeningId);
  const put = useSend(clip, shot);
  const free = freeSlot(s.data, j);
  if (isIn(s.data, j))
    return <span className="text-pine">in the screening{put.error ? ", without its picture" : ""}</span>;
  if (s.data?.finished) return <span className="text-ink-2">the screening is finished</span>;
  return (
    <>
      <button
        type="button"
        className="btn-quiet"
        aria-label={`${j.name}, ${j.side}: into the screening`}
        disabled={!free || put.isPending || !s.data}
        onClick={() => put.mutate([j])}
      >
        {free ? "into the screening" : "all its trials are taken"}
      </button>
      <SaveState error={put.error} saving={put.isPending} />
    </>
  );
}

/** Says of a trial who placed the points, how sure it is, and keeps its picture. */
async function origin(screening: string, j: Judged, slot: number, picture: Blob | null | undefined) {
  const how = new URLSearchParams({ made: j.by || "by hand", margin: j.margin.toFixed(3) });
  const res = await fetch(`/api/screenings/${screening}/trials/${j.test}/${j.side}/${slot}/origin?${how}`, {
    method: "PUT",
    headers: { "Content-Type": "image/png" },
    body: picture ?? new Blob(),
  }).catch(() => {
    throw new NoConnection();
  });
  if (!res.ok) throw new Problem(res.status, await res.json());
}
