import { t } from "@lingui/core/macro";
import { useEffect, useRef, useState } from "react";
import { weekDay } from "../../parts/dates";
import { frameAt } from "./frames";
import type { Clip } from "./upload";

/** The usual time between two frames of a clip, s of real time. */
export function frameOf(c: Clip) {
  const time = c.times;
  const first = time[0];
  const last = time.at(-1);
  if (first === undefined || last === undefined || time.length < 2) return 1 / 30;
  return (last - first) / (time.length - 1) / (c.marks.slow || 1);
}

export function Screen({ c, second, bare }: { c: Clip; second: number | undefined; bare?: boolean }) {
  const video = useRef<HTMLVideoElement>(null);
  const [ready, setReady] = useState(false);
  useEffect(() => {
    const v = video.current;
    if (v && ready && second !== undefined && Math.abs(v.currentTime - second) > 1e-4) v.currentTime = second;
  }, [second, ready]);
  return (
    <figure className="min-w-0">
      {c.kind === "photo" ? (
        <img src={`/api/clips/${c.id}/file`} alt={c.name} className="block w-full bg-ink" />
      ) : (
        <video
          ref={video}
          src={`/api/clips/${c.id}/file`}
          muted
          playsInline
          preload="auto"
          className="block w-full bg-ink"
          onLoadedData={() => setReady(true)}
        />
      )}
      {!bare && (
        <figcaption className="mt-1 text-[14px]">
          <b>{weekDay(c.on)}</b>, {c.name}
          {c.kind === "video" && second !== undefined && (
            <span className="text-ink-2">{t` · frame ${frameAt(c.times, c.marks.rate || 30, second) + 1}`}</span>
          )}
        </figcaption>
      )}
    </figure>
  );
}
