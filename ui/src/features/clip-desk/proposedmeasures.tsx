import { t } from "@lingui/core/macro";
import { useState } from "react";
import { useScreening } from "../../api/hooks";
import { Title } from "../../parts/marks";
import { SaveState } from "../../parts/states";
import type { Read } from "./proposed";
import { Row, type Shot, Times } from "./readings";
import { isIn, useSend } from "./send";
import type { Clip } from "./upload";

/** What the proposed and corrected points give over all steps, and one press for all of it. */
export function ProposedMeasures({ read, clip, shot }: { read: Read; clip: Clip; shot: Shot }) {
  const s = useScreening(clip.screeningId);
  const [sure, setSure] = useState(false);
  const send = useSend(clip, shot);
  const all = [...read.readings, ...read.times].filter(
    (j) => j.test && j.class !== "uncertain" && !isIn(s.data, j),
  );
  if (!read.gait && read.readings.length === 0 && read.says.length === 0) return null;
  return (
    <section aria-label={t`Measures over all steps`} className="mt-5">
      <Title aside={t`median of all steps`}>{t`All steps`}</Title>
      {read.says.map((w) => (
        <p key={w} className="mt-1 text-[14px]">
          {w}
        </p>
      ))}
      {read.readings.map((j) => (
        <Row key={`${j.measure}${j.side}`} j={j} clip={clip} shot={shot} />
      ))}
      {read.gait && (
        <Times gait={read.gait} times={read.times} spring={read.spring} clip={clip} shot={shot} />
      )}
      {all.length > 0 && !s.data?.finished && (
        <div className="mt-3">
          {sure ? (
            <>
              <p>
                {t`${all.length} readings with this picture: ${[...new Set(all.map((j) => j.name))].join(", ")}.`}
              </p>
              <p className="mt-2 flex gap-3">
                <button
                  type="button"
                  className="btn btn-main"
                  disabled={send.isPending}
                  onClick={() => send.mutate(all, { onSettled: () => setSure(false) })}
                >
                  {t`Put them in`}
                </button>
                <button type="button" className="btn" onClick={() => setSure(false)}>
                  {t`Not now`}
                </button>
              </p>
            </>
          ) : (
            <button type="button" className="btn" onClick={() => setSure(true)}>
              {t`All into the screening…`}
            </button>
          )}
          <SaveState error={send.error} saving={send.isPending} />
        </div>
      )}
      {!!send.data && (
        <p className="mt-1 text-[14px]">{t`${send.data} had no free trial in the screening and were left out.`}</p>
      )}
    </section>
  );
}
