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
    <section aria-label="Proposed points" className="mt-4">
      <Title aside={`somebody in ${read.found} of ${read.frames} frames; ${mended(read)}`}>
        Proposed points
      </Title>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        {read.events.length > 0 && (
          <>
            <button
              type="button"
              className="btn min-h-8"
              disabled={!step || lookedAt(m, frame)}
              onClick={() => step && set(accept(m, read, step.from, step.to))}
            >
              This step is right
            </button>
            <button
              type="button"
              className="btn min-h-8"
              disabled={lookedAt(m, read.from) && lookedAt(m, read.from + read.frames - 1)}
              onClick={() => set(accept(m, read, read.from, read.from + read.frames - 1))}
            >
              All is right
            </button>
          </>
        )}
        {take && (
          <button type="button" className="btn-quiet" onClick={take}>
            Take this frame's points into the moment
          </button>
        )}
      </div>
      {read.look.length > 0 && (
        <p className="mt-2 flex flex-wrap items-baseline gap-x-2 gap-y-1 text-[14px]">
          <span>Check these first:</span>
          {read.look.map((f) => (
            <button
              key={f}
              type="button"
              aria-current={f === frame}
              className={`btn-quiet ${f === frame ? "font-bold" : ""}`}
              onClick={() => go(f)}
            >
              Frame {f + 1}
            </button>
          ))}
        </p>
      )}
      {read.asks.length > 0 && (
        <div className="mt-2 flex flex-wrap items-center gap-x-4 gap-y-1 text-[14px]">
          <span>
            Foot strike: heel and toe in {read.asks.length} frames, <b>{done}</b> done.
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
            {ask ? "Leave it" : "Place heel and toe"}
          </button>
        </div>
      )}
    </section>
  );
}
