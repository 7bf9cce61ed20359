import { t } from "@lingui/core/macro";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Choice } from "../../parts/field";
import { frameSeconds } from "./lookthrough";
import { type Box, CantPropose, keep, type Progress, propose } from "./propose";
import type { Clip } from "./upload";

/** Asks for proposals, with progress and a way to stop. */
export function Propose({
  clip,
  frame,
  count,
  box,
  boxing,
  setBoxing,
  clearBox,
}: {
  clip: Clip;
  frame: number;
  count: number;
  box: Box | null;
  boxing: boolean;
  setBoxing: (on: boolean) => void;
  clearBox: () => void;
}) {
  const qc = useQueryClient();
  const photo = clip.kind === "photo";
  const [range, setRange] = useState<"all" | "here" | "one">("all");
  const [going, setGoing] = useState<Progress | null>(null);
  const [words, setWords] = useState("");
  const stop = useRef<AbortController | null>(null);
  useEffect(() => () => stop.current?.abort(), []);
  const go = async () => {
    const c = new AbortController();
    stop.current = c;
    setWords("");
    setGoing({ done: 0, of: 1, found: 0, perFrame: 0 });
    const from = photo || range === "all" ? 0 : frame;
    const to = photo
      ? 0
      : range === "one"
        ? frame
        : Math.min(count - 1, from + (range === "all" ? 3599 : 2 * Math.round(1 / frameSeconds(clip)) - 1));
    try {
      const p = await propose(clip, { from, to }, box, setGoing, c.signal);
      await keep(clip.id, p);
      await qc.invalidateQueries({ queryKey: ["clip", clip.id] });
    } catch (e) {
      if (c.signal.aborted) setWords(t`Stopped; nothing was changed.`);
      else setWords(e instanceof CantPropose ? e.message : t`Not proposed: ${(e as Error).message}`);
    } finally {
      setGoing(null);
    }
  };
  return (
    <section aria-label={t`Propose points`} className="mt-4">
      {going ? (
        <div className="flex flex-wrap items-center gap-4">
          <progress
            className="w-56"
            aria-label={t`Points proposed`}
            value={going.done}
            max={Math.max(1, going.of)}
          />
          {/* before the words, which change their length with every frame */}
          <button type="button" className="btn min-h-8" onClick={() => stop.current?.abort()}>
            {t`Stop`}
          </button>
          <span role="status">
            {going.done === 0
              ? t`loading the landmark library, 10 MB once`
              : t`frame ${going.done} of ${going.of}, somebody in ${going.found}; ${Math.round(going.perFrame)} ms a frame`}
          </span>
        </div>
      ) : (
        <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
          <button type="button" className="btn btn-main" onClick={() => void go()}>
            {clip.proposedAt ? t`Propose again` : t`Propose points`}
          </button>
          {!photo && (
            <Choice
              label={t`Frames to propose for`}
              hideLabel
              compact
              options={[
                { value: "all", label: t`the clip` },
                { value: "here", label: t`2 s from here` },
                { value: "one", label: t`this frame` },
              ]}
              value={range}
              onChange={setRange}
            />
          )}
          <button
            type="button"
            aria-pressed={boxing}
            className={`min-h-8 rounded-[3px] border-[1.5px] px-2 text-[14px] font-semibold ${boxing ? "border-ink bg-ink text-chalk" : "border-edge bg-paper"}`}
            onClick={() => setBoxing(!boxing)}
          >
            {t`Box round the runner${box ? " ✓" : ""}`}
          </button>
          {box && (
            <button type="button" className="btn-quiet" onClick={clearBox}>
              {t`No box`}
            </button>
          )}
          <p className="w-full text-[14px] text-ink-2">
            {boxing
              ? t`Click two corners of a box round the runner, head to shoes; it follows from there.`
              : t`A library on this device looks for the body; nothing leaves the machine. You look, put right, accept. Where the runner fills less than half of the picture's height, draw a box first.`}
          </p>
        </div>
      )}
      {words && (
        <p role="alert" className="mt-2 font-semibold">
          {words}
        </p>
      )}
    </section>
  );
}
