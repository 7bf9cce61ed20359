import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Title } from "../../parts/marks";
import { mended } from "./markers";
import type { Marks } from "./marks";
import { accept, lookedAt, type Read, stepAt } from "./proposed";
import type { Clip } from "./upload";

export const frameSeconds = (c: Clip) => {
  const a = c.times[0];
  const b = c.times.at(-1);
  return a === undefined || b === undefined || c.times.length < 2 ? 1 / 30 : (b - a) / (c.times.length - 1);
};

/** What to look at, what to put right, what is right. */
export function LookThrough({
  read,
  m,
  frame,
  go,
  set,
  ask,
  setAsk,
  take,
}: {
  read: Read;
  m: Marks;
  frame: number;
  go: (f: number) => void;
  set: (m: Marks) => void;
  ask: boolean;
  setAsk: (on: boolean) => void;
  take: (() => void) | null;
}) {
  const step = stepAt(read, frame);
  const next = read.asks.find((a) => !a.done);
  const done = read.asks.filter((a) => a.done).length;
  return (
    <section aria-label={t`Proposed points`} className="mt-4">
      <Title aside={t`somebody in ${read.found} of ${read.frames} frames; ${mended(read)}`}>
        {t`Proposed points`}
      </Title>
      {read.sees && (
        <p role="status" className="mb-2 font-semibold">
          {read.body === "whole" ? "" : "▲ "}
          {read.sees}
        </p>
      )}
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        {read.events.length > 0 && (
          <>
            <button
              type="button"
              className="btn min-h-8"
              disabled={!step || lookedAt(m, frame)}
              onClick={() => step && set(accept(m, read, step.from, step.to))}
            >
              {t`This step is right`}
            </button>
            <button
              type="button"
              className="btn min-h-8"
              disabled={lookedAt(m, read.from) && lookedAt(m, read.from + read.frames - 1)}
              onClick={() => set(accept(m, read, read.from, read.from + read.frames - 1))}
            >
              {t`All is right`}
            </button>
          </>
        )}
        {take && (
          <button type="button" className="btn-quiet" onClick={take}>
            {t`Take this frame's points into the moment`}
          </button>
        )}
      </div>
      {read.look.length > 0 && (
        <p className="mt-2 flex flex-wrap items-baseline gap-x-2 gap-y-1 text-[14px]">
          <span>{t`Check these first:`}</span>
          {read.look.map((f) => (
            <button
              key={f}
              type="button"
              aria-current={f === frame}
              className={`btn-quiet ${f === frame ? "font-bold" : ""}`}
              onClick={() => go(f)}
            >
              {t`Frame ${f + 1}`}
            </button>
          ))}
        </p>
      )}
      {read.asks.length > 0 && (
        <div className="mt-2 flex flex-wrap items-center gap-x-4 gap-y-1 text-[14px]">
          <span>
            <Trans>
              Foot strike: heel and toe in {read.asks.length} frames, <b>{done}</b> done.
            </Trans>
          </span>
          <button
            type="button"
            className="btn min-h-8"
            aria-pressed={ask}
            disabled={!next && !ask}
            onClick={() => {
              setAsk(!ask);
              if (!ask && next) go(next.frame);
            }}
          >
            {ask ? t`Leave it` : t`Place heel and toe`}
          </button>
        </div>
      )}
    </section>
  );
}
