import { useEffect, useRef, useState } from "react";
import type { Schema } from "../api/client";
import { Moving, Picture } from "./picture";

/** How long each part of a repetition takes, in seconds. */
export type Tempo = { up: number; hold: number; down: number; low: number };

/** Where a movement is after so many seconds of a tempo: 0 at its start, 1 at its end. */
export function shareAt(t: Tempo, seconds: number): number {
  const each = t.up + t.hold + t.down + t.low;
  if (each <= 0) return 1;
  let s = ((seconds % each) + each) % each;
  if (s < t.up) return t.up > 0 ? s / t.up : 1;
  s -= t.up;
  if (s < t.hold) return 1;
  s -= t.hold;
  return s < t.down && t.down > 0 ? 1 - s / t.down : 0;
}

const calm = () => matchMedia("(prefers-reduced-motion: reduce)");

/** Whether somebody asked for stillness. */
export function useStill(): boolean {
  const [still, set] = useState(() => typeof matchMedia === "function" && calm().matches);
  useEffect(() => {
    if (typeof matchMedia !== "function") return;
    const m = calm();
    const hear = () => set(m.matches);
    m.addEventListener("change", hear);
    return () => m.removeEventListener("change", hear);
  }, []);
  return still;
}

/**
 * An exercise in motion, where `share` says how far it is at a moment; start and end
 * side by side where motion is not wanted.
 */
export function Playing({
  motion,
  picture,
  share,
  size,
}: {
  motion: Schema["FigureMotion"] | undefined;
  picture: Schema["Picture"] | undefined;
  share: () => number;
  size: number;
}) {
  const still = useStill();
  const ask = useRef(share);
  ask.current = share;
  const [at, setAt] = useState(0);
  const moves = !!motion && !still;
  useEffect(() => {
    if (!moves) return;
    let id = 0;
    const tick = () => {
      setAt(ask.current());
      id = requestAnimationFrame(tick);
    };
    id = requestAnimationFrame(tick);
    return () => cancelAnimationFrame(id);
  }, [moves]);
  if (!motion || still) return <Picture picture={picture} size={motion ? size / 2 : Math.min(size, 150)} />;
  return (
    <span data-motion={at.toFixed(2)} className="block max-w-full shrink-0">
      <Moving motion={motion} share={at} size={size} />
    </span>
  );
}

/** An exercise that is shown over and over at a tempo. */
export function Shown({
  motion,
  picture,
  tempo,
  size,
}: {
  motion: Schema["FigureMotion"] | undefined;
  picture: Schema["Picture"] | undefined;
  tempo: Tempo;
  size: number;
}) {
  const from = useRef(performance.now());
  return (
    <Playing
      motion={motion}
      picture={picture}
      size={size}
      share={() => shareAt(tempo, (performance.now() - from.current) / 1000)}
    />
  );
}
