import { type RefObject, useEffect, useRef, useState } from "react";
import { keep } from "./frames";
import type { Picture } from "./marked";

/**
 * Two videos that take turns: one shows the frame asked for, the one behind is at the
 * next already; a frame that was seen before covers them until the video has come.
 */
export function useTurns({
  box,
  second,
  ahead,
  playing,
  speed,
  size,
  onEnd,
  onTime,
}: {
  box: RefObject<HTMLDivElement | null>;
  second: number;
  ahead: number;
  playing: boolean;
  speed: number;
  size: Picture | null;
  onEnd: () => void;
  onTime: (second: number) => void;
}) {
  const videos = [useRef<HTMLVideoElement>(null), useRef<HTMLVideoElement>(null)] as const;
  const [front, setFront] = useState<0 | 1>(0);
  const video = videos[front];
  const kept = useRef(new Map<string, ImageBitmap>());
  const cover = useRef<HTMLCanvasElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the turn itself asks for no frame
  useEffect(() => {
    const v = videos[front].current;
    const b = videos[1 - front]?.current;
    if (!v || playing || !size) return;
    const at = (e: HTMLVideoElement, s: number) => Math.abs(e.currentTime - s) < 1e-4;
    const prepare = (e: HTMLVideoElement) => {
      if (!at(e, ahead)) e.currentTime = ahead;
    };
    const key = second.toFixed(4);
    const show = (from?: HTMLVideoElement) => {
      box.current?.setAttribute("data-shown", key);
      if (!from) return;
      cover.current?.classList.add("hidden");
      setTimeout(() => {
        if (at(from, second) && !from.seeking) keep(kept.current, key, from);
      });
    };
    if (at(v, second) && !v.seeking) {
      show(v);
      if (b) prepare(b);
      return;
    }
    if (b && at(b, second) && !b.seeking && b.readyState >= 2) {
      setFront(front === 0 ? 1 : 0);
      show(b);
      prepare(v);
      return;
    }
    const done = () => {
      if (!at(v, second)) return;
      show(v);
      if (b) prepare(b);
    };
    // A frame that was seen already is there at once; the video follows under it.
    const seen = kept.current.get(key);
    if (seen && cover.current) {
      cover.current.width = seen.width;
      cover.current.height = seen.height;
      cover.current.getContext("2d")?.drawImage(seen, 0, 0);
      cover.current.classList.remove("hidden");
      show();
    }
    v.addEventListener("seeked", done);
    v.currentTime = second;
    return () => v.removeEventListener("seeked", done);
  }, [second, ahead, playing, size]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: while it plays no turn is taken
  useEffect(() => {
    const v = video.current;
    if (!v) return;
    if (!playing) {
      v.pause();
      return;
    }
    cover.current?.classList.add("hidden");
    v.playbackRate = speed;
    void v.play().catch(onEnd);
    let on = true;
    const look = () => {
      if (!on) return;
      onTime(v.currentTime);
      v.requestVideoFrameCallback(look);
    };
    v.requestVideoFrameCallback(look);
    return () => {
      on = false;
    };
  }, [playing, speed, onTime, onEnd]);
  return { videos, front, video, cover };
}
