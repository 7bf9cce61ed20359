import { t } from "@lingui/core/macro";
import type { Schema } from "../../api/client";

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

/** The picture with its lines and marks as a PNG, at most so many pixels wide. */
export function drawn(
  from: CanvasImageSource,
  size: Picture,
  lines: readonly Stroke[],
  marks: readonly Mark[],
  most: number,
): Promise<Blob | null> | null {
  const paper = document.createElement("canvas");
  const c = paper.getContext("2d");
  if (!c) return null;
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
  c.font = t`600 ${w * 5}px sans-serif`;
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
}

/** Lines and marks on the picture; a mark can be taken hold of. */
export function Marked({
  lines,
  marks,
  chosen,
  placing,
  r,
  width,
  onGrab,
}: {
  lines: readonly Stroke[];
  marks: readonly Mark[];
  chosen: string | null;
  placing: boolean;
  /** Radius of a mark, in the picture's pixels. */
  r: number;
  /** Of the picture: a name goes to the side where there is room. */
  width: number;
  onGrab: (id: string) => void;
}) {
  return (
    <>
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
            onGrab(m.id);
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
              x={m.at.x + (m.at.x > 0.6 * width ? -2 : 2) * r}
              textAnchor={m.at.x > 0.6 * width ? "end" : "start"}
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
    </>
  );
}
