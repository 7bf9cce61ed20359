import { t } from "@lingui/core/macro";
import { type PointerEvent, useEffect, useRef, useState } from "react";
import { lens, magnify } from "./lens";
import { drawn, type Mark, Marked, type Picture, type Point, type Stroke } from "./marked";
import type { Shot } from "./readings";
import { useTurns } from "./turns";

/**
 * The picture with what is marked on it: the wheel zooms to the pointer, a click places, a
 * drag moves, with a lens while it does.
 */
export function Stage({
  src,
  photo,
  second,
  ahead,
  playing,
  speed,
  marks,
  lines,
  chosen,
  placing,
  onPicture,
  onEnd,
  first,
  frameOf,
  onTime,
  onThere,
  onPlace,
  onMove,
  onDone,
  onChoose,
  over: under,
  shot,
}: {
  src: string;
  photo: boolean;
  second: number;
  /** Where the next step will probably go: kept decoded behind the picture on show. */
  ahead: number;
  playing: boolean;
  speed: number;
  marks: readonly Mark[];
  lines: readonly Stroke[];
  chosen: string | null;
  /** A click places, also where a mark is. */
  placing: boolean;
  onPicture: (p: Picture & { seconds: number }) => void;
  onEnd: () => void;
  first: number;
  frameOf: (second: number) => number;
  onTime: (second: number) => void;
  onThere: (there: boolean, instead?: number) => void;
  onPlace: (at: Point) => void;
  onMove: (id: string, at: Point) => void;
  onDone: () => void;
  onChoose: (id: string | null) => void;
  /** A picture to lay over it half through, so that it is set up as last time. */
  over?: string;
  /** Filled in here: draws the picture with its marks. */
  shot: Shot;
}) {
  const image = useRef<HTMLImageElement>(null);
  const box = useRef<HTMLDivElement>(null);
  const glass = useRef<HTMLCanvasElement>(null);
  const [size, setSize] = useState<Picture | null>(null);
  const [view, setView] = useState({ z: 1, x: 0, y: 0 });
  const { videos, front, video, cover } = useTurns({
    box,
    second,
    ahead,
    playing,
    speed,
    size,
    first,
    frameOf,
    onEnd,
    onTime,
    onThere,
  });
  const drag = useRef<{ id: string; moved: boolean } | null>(null);
  const [over, setOver] = useState<Point | null>(null);

  shot.current = async (most = Number.POSITIVE_INFINITY) => {
    const from = video.current ?? image.current;
    if (from instanceof HTMLVideoElement && from.seeking)
      await new Promise((done) => from.addEventListener("seeked", done, { once: true }));
    return from && size ? drawn(from, size, lines, marks, most) : null;
  };
  const place = (e: { clientX: number; clientY: number }): Point => {
    const b = box.current?.getBoundingClientRect();
    if (!b || !size) return { x: 0, y: 0 };
    const scale = b.width / size.width;
    return {
      x: (e.clientX - b.left - view.x) / view.z / scale,
      y: (e.clientY - b.top - view.y) / view.z / scale,
    };
  };
  const inside = (p: Point) => !!size && p.x >= 0 && p.y >= 0 && p.x <= size.width && p.y <= size.height;
  // A wheel listener of React can't keep the page from scrolling.
  const wheel = useRef<(e: WheelEvent) => void>(() => {});
  wheel.current = (e) => {
    const b = box.current?.getBoundingClientRect();
    if (!b) return;
    e.preventDefault();
    const z = Math.min(12, Math.max(1, view.z * (e.deltaY < 0 ? 1.25 : 0.8)));
    const px = e.clientX - b.left;
    const py = e.clientY - b.top;
    const keep = (p: number, v: number, length: number) =>
      Math.min(0, Math.max(length * (1 - z), p - ((p - v) / view.z) * z));
    setView({ z, x: keep(px, view.x, b.width), y: keep(py, view.y, b.height) });
  };
  useEffect(() => {
    const el = box.current;
    const on = (e: WheelEvent) => wheel.current(e);
    el?.addEventListener("wheel", on, { passive: false });
    return () => el?.removeEventListener("wheel", on);
  }, []);

  const look = (p: Point) => {
    const c = glass.current?.getContext("2d");
    const from = video.current ?? image.current;
    if (!c || !from || !size) return;
    magnify(c, from, p, (box.current?.clientWidth ?? size.width) / size.width);
  };
  const move = (e: PointerEvent) => {
    const p = place(e);
    setOver(inside(p) ? p : null);
    look(p);
    if (!drag.current) return;
    drag.current.moved = true;
    onMove(drag.current.id, {
      x: Math.min(size?.width ?? 0, Math.max(0, p.x)),
      y: Math.min(size?.height ?? 0, Math.max(0, p.y)),
    });
  };
  const r = size ? Math.max(size.width, size.height) / 130 / view.z : 4;
  return (
    <div className="relative">
      <div
        ref={box}
        data-second={second.toFixed(4)}
        className="relative mx-auto w-full touch-none overflow-hidden bg-ink select-none"
        style={{
          aspectRatio: size ? `${size.width} / ${size.height}` : "16 / 9",
          // a picture taller than wide is whole in the window
          maxWidth: size ? `max(18rem, calc((100dvh - 15rem) * ${size.width / size.height}))` : undefined,
        }}
      >
        <div
          className="absolute inset-0 origin-top-left"
          style={{ transform: `translate(${view.x}px, ${view.y}px) scale(${view.z})` }}
        >
          {photo ? (
            <img
              ref={image}
              src={src}
              alt=""
              className="block w-full"
              onLoad={(e) => {
                const p = { width: e.currentTarget.naturalWidth, height: e.currentTarget.naturalHeight };
                setSize(p);
                onPicture({ ...p, seconds: 0 });
              }}
            />
          ) : (
            videos.map((ref, k) => (
              <video
                key={k === 0 ? "one" : "other"}
                ref={ref}
                src={src}
                muted
                playsInline
                preload="auto"
                aria-hidden={k !== front}
                className={`block w-full ${k === front ? "relative" : "absolute inset-0 -z-10"}`}
                onLoadedData={
                  k === 0
                    ? (e) => {
                        const p = { width: e.currentTarget.videoWidth, height: e.currentTarget.videoHeight };
                        setSize(p);
                        onPicture({ ...p, seconds: e.currentTarget.duration });
                      }
                    : undefined
                }
                onEnded={k === front ? onEnd : undefined}
              />
            ))
          )}
          {under && (
            <img
              src={under}
              alt={t`Last time, half through`}
              className="pointer-events-none absolute inset-0 h-full w-full object-contain opacity-45"
            />
          )}
          {!photo && <canvas ref={cover} className="absolute inset-0 hidden h-full w-full" />}
          {size && (
            <svg
              viewBox={`0 0 ${size.width} ${size.height}`}
              className="absolute inset-0 h-full w-full cursor-crosshair"
              role="img"
              aria-label={t`The picture with its marks`}
              onPointerMove={move}
              onPointerLeave={() => setOver(null)}
              onPointerUp={(e) => {
                const p = place(e);
                if (drag.current?.moved) onDone();
                else if (!drag.current && inside(p)) onPlace(p);
                drag.current = null;
              }}
            >
              <Marked
                lines={lines}
                marks={marks}
                chosen={chosen}
                placing={placing}
                r={r}
                width={size.width}
                onGrab={(id) => {
                  drag.current = { id, moved: false };
                  onChoose(id);
                }}
              />
            </svg>
          )}
        </div>
      </div>
      <div
        aria-hidden="true"
        className={`pointer-events-none absolute top-2 ${over && size && over.x < size.width / 2 ? "right-2" : "left-2"} ${over ? "" : "hidden"}`}
      >
        <canvas ref={glass} width={lens} height={lens} className="rounded-full border-2 border-paper" />
      </div>
      {view.z > 1 && (
        <button
          type="button"
          className="btn absolute right-2 bottom-2 min-h-8"
          onClick={() => setView({ z: 1, x: 0, y: 0 })}
        >
          {t`Whole picture`}
        </button>
      )}
    </div>
  );
}
