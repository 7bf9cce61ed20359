import { type PointerEvent, useEffect, useRef, useState } from "react";
import type { Schema } from "../../api/client";
import { keep } from "./frames";
import { lens, lensZoom } from "./lens";
import type { Shot } from "./readings";

export type Point = Schema["MeasurePoint"];

/** A point on show: which one it is, what it is called, where it lies. */
export type Mark = {
  id: string;
  name: string;
  at: Point;
  quiet?: boolean;
  /** Proposed, not looked at yet. */
  hollow?: boolean;
  side?: "left" | "right";
};

/** A drawn line; of a side it has that side's hue. */
export type Stroke = { from: Point; to: Point; side?: "left" | "right" };

/** The sides' hues on a picture, light enough for grass and shade. */
const hues = { left: "#aab4ff", right: "#ffc46b" };

export type Picture = { width: number; height: number };

/**
 * The picture with what is marked on it: wheel steps, Ctrl and wheel zooms to the
 * pointer, a click places, a drag moves, with a lens while it does.
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
  onTime,
  onPlace,
  onMove,
  onDone,
  onChoose,
  onWheel,
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
  onTime: (second: number) => void;
  onPlace: (at: Point) => void;
  onMove: (id: string, at: Point) => void;
  onDone: () => void;
  onChoose: (id: string | null) => void;
  onWheel: (by: number) => void;
  /** Filled in here: draws the picture with its marks. */
  shot: Shot;
}) {
  const videos = [useRef<HTMLVideoElement>(null), useRef<HTMLVideoElement>(null)] as const;
  const [front, setFront] = useState<0 | 1>(0);
  const video = videos[front];
  const kept = useRef(new Map<string, ImageBitmap>());
  const cover = useRef<HTMLCanvasElement>(null);
  const image = useRef<HTMLImageElement>(null);
  const box = useRef<HTMLDivElement>(null);
  const glass = useRef<HTMLCanvasElement>(null);
  const [size, setSize] = useState<Picture | null>(null);
  const [view, setView] = useState({ z: 1, x: 0, y: 0 });
  const drag = useRef<{ id: string; moved: boolean } | null>(null);
  const [over, setOver] = useState<Point | null>(null);

  // Two videos take turns: the one behind is at the next frame already.
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

  shot.current = async (most = Number.POSITIVE_INFINITY) => {
    const from = video.current ?? image.current;
    if (from instanceof HTMLVideoElement && from.seeking)
      await new Promise((done) => from.addEventListener("seeked", done, { once: true }));
    const paper = document.createElement("canvas");
    const c = paper.getContext("2d");
    if (!from || !size || !c) return null;
    const scale = Math.min(1, most / size.width);
    paper.width = Math.round(size.width * scale);
    paper.height = Math.round(size.height * scale);
    c.scale(scale, scale);
    c.drawImage(from, 0, 0);
    const w = size.width / 260;
    c.lineWidth = w;
    for (const { from: a, to: b, side } of lines) {
      c.strokeStyle = side ? hues[side] : "#fdfdfa";
      c.beginPath();
      c.moveTo(a.x, a.y);
      c.lineTo(b.x, b.y);
      c.stroke();
    }
    c.strokeStyle = "#fdfdfa";
    c.font = `600 ${w * 5}px sans-serif`;
    for (const m of marks) {
      c.beginPath();
      c.arc(m.at.x, m.at.y, w * 2, 0, 7);
      c.fillStyle = "#17211e";
      if (!m.hollow) c.fill();
      c.stroke();
      if (m.quiet || m.side) continue;
      c.lineWidth = w * 1.6;
      c.strokeStyle = "#17211e";
      c.strokeText(m.name, m.at.x + w * 4, m.at.y - w * 2);
      c.fillStyle = "#fdfdfa";
      c.fillText(m.name, m.at.x + w * 4, m.at.y - w * 2);
      c.lineWidth = w;
      c.strokeStyle = "#fdfdfa";
    }
    return new Promise((done) => paper.toBlob(done, "image/png"));
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
    if (!e.ctrlKey) {
      onWheel(Math.sign(e.deltaY));
      return;
    }
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
    const part = lens / lensZoom / Math.max(0.3, (box.current?.clientWidth ?? size.width) / size.width);
    c.fillStyle = "#000";
    c.fillRect(0, 0, lens, lens);
    c.drawImage(from, p.x - part / 2, p.y - part / 2, part, part, 0, 0, lens, lens);
    c.strokeStyle = "#fff";
    c.beginPath();
    c.moveTo(lens / 2, lens / 2 - 14);
    c.lineTo(lens / 2, lens / 2 + 14);
    c.moveTo(lens / 2 - 14, lens / 2);
    c.lineTo(lens / 2 + 14, lens / 2);
    c.stroke();
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
  const r = size ? size.width / 130 / view.z : 4;
  return (
    <div className="relative">
      <div
        ref={box}
        className="relative touch-none overflow-hidden bg-ink select-none"
        style={{ aspectRatio: size ? `${size.width} / ${size.height}` : "16 / 9" }}
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
          {!photo && <canvas ref={cover} className="absolute inset-0 hidden h-full w-full" />}
          {size && (
            <svg
              viewBox={`0 0 ${size.width} ${size.height}`}
              className="absolute inset-0 h-full w-full cursor-crosshair"
              role="img"
              aria-label="The picture with its marks"
              onPointerMove={move}
              onPointerLeave={() => setOver(null)}
              onPointerUp={(e) => {
                const p = place(e);
                if (drag.current?.moved) onDone();
                else if (!drag.current && inside(p)) onPlace(p);
                drag.current = null;
              }}
            >
              {lines.map(({ from: a, to: b, side }) => (
                <line
                  key={`${a.x},${a.y},${b.x},${b.y},${side ?? ""}`}
                  x1={a.x}
                  y1={a.y}
                  x2={b.x}
                  y2={b.y}
                  stroke={side ? hues[side] : "#fdfdfa"}
                  strokeWidth={r / 2}
                  opacity="0.85"
                />
              ))}
              {marks.map((m) => (
                <g
                  key={m.id}
                  opacity={m.quiet ? 0.55 : 1}
                  pointerEvents={placing ? "none" : undefined}
                  onPointerDown={(e) => {
                    e.stopPropagation();
                    (e.currentTarget.ownerSVGElement as SVGSVGElement).setPointerCapture(e.pointerId);
                    drag.current = { id: m.id, moved: false };
                    onChoose(m.id);
                  }}
                >
                  <circle cx={m.at.x} cy={m.at.y} r={r * 1.6} fill="transparent" />
                  <circle
                    cx={m.at.x}
                    cy={m.at.y}
                    r={m.side ? r * 0.7 : r}
                    fill={chosen === m.id ? "#963a22" : m.hollow ? "transparent" : "#17211e"}
                    stroke={m.side ? hues[m.side] : "#fdfdfa"}
                    strokeWidth={r / 2.2}
                  />
                  {chosen === m.id && (
                    <text
                      x={m.at.x + r * 2}
                      y={m.at.y - r * 1.5}
                      fontSize={r * 2.8}
                      pointerEvents="none"
                      fontWeight="600"
                      fill="#fdfdfa"
                      stroke="#17211e"
                      strokeWidth={r / 2}
                      paintOrder="stroke"
                    >
                      {m.name}
                    </text>
                  )}
                </g>
              ))}
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
          whole picture
        </button>
      )}
    </div>
  );
}
