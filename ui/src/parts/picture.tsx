import type { Schema } from "../api/client";
import outlines from "../api/outlines.json";

type Part = Schema["FigurePart"];
type Motion = Schema["FigureMotion"];
type Outline = { points: number[]; round?: boolean; width?: number };

const shapes: Record<string, Outline> = outlines;

const ink: Record<Part["kind"], { fill: string; stroke: string; width: number }> = {
  near: { fill: "var(--ink)", stroke: "var(--chalk)", width: 0.7 },
  far: { fill: "var(--far)", stroke: "var(--chalk)", width: 0.7 },
  work: { fill: "var(--plum)", stroke: "none", width: 0 },
  press: { fill: "var(--plum)", stroke: "none", width: 0 },
  ghost: { fill: "none", stroke: "var(--edge)", width: 0.5 },
  thing: { fill: "var(--rule)", stroke: "var(--ink-2)", width: 0.8 },
  floor: { fill: "none", stroke: "var(--rule)", width: 0.9 },
  mark: { fill: "var(--pine)", stroke: "var(--chalk)", width: 0.7 },
  light: { fill: "var(--chalk)", stroke: "none", width: 0 },
};

const short = (n: number) => Math.round(n * 10) / 10;

/** A part's outline where it lies, as path data. */
function pathOf(o: Outline, at: number[]): string {
  const [x = 0, y = 0, turn = 0, wide = 1, high = 1] = at;
  const sin = Math.sin((turn * Math.PI) / 180);
  const cos = Math.cos((turn * Math.PI) / 180);
  let d = "";
  for (let i = 0; i < o.points.length; i += 2) {
    const px = (o.points[i] ?? 0) * wide;
    const py = (o.points[i + 1] ?? 0) * high;
    const n = i / 2;
    d += n === 0 ? "M" : !o.round ? "L" : n % 3 === 1 ? "C" : " ";
    d += `${short(x + px * cos - py * sin)} ${short(y + px * sin + py * cos)}`;
  }
  return o.width ? d : `${d}Z`;
}

const lies = (p: Part) => [p.x, p.y, p.turn ?? 0, p.wide, p.high];

function Shape({ part, at }: { part: Part; at: number[] }) {
  const o = shapes[part.part];
  if (!o) return null;
  const k = ink[part.kind];
  return (
    <path
      d={pathOf(o, at)}
      fill={o.width ? "none" : k.fill}
      stroke={o.width && k.stroke === "none" ? k.fill : k.stroke}
      strokeWidth={o.width || k.width}
      strokeDasharray={part.kind === "ghost" ? "1.6 1.4" : undefined}
    />
  );
}

function Box({ size, children }: { size: number; children: React.ReactNode }) {
  return (
    <svg
      viewBox="0 0 100 100"
      width={size}
      height={size}
      className="max-w-full shrink-0"
      aria-hidden="true"
      strokeLinejoin="round"
    >
      {children}
    </svg>
  );
}

/** One position, drawn from the parts the server sends. */
export function Drawing({ parts, size = 72 }: { parts: readonly Part[]; size?: number }) {
  return (
    <Box size={size}>
      {parts.map((p, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: parts have an order and nothing else
        <Shape key={i} part={p} at={lies(p)} />
      ))}
    </Box>
  );
}

/** A moment of a movement: 0 is its start, 1 its end. */
export function Moving({ motion, share, size }: { motion: Motion; share: number; size: number }) {
  const last = motion.moves.length - 1;
  const along = Math.min(1, Math.max(0, share)) * last;
  const from = Math.min(last - 1, Math.floor(along));
  const rest = along - from;
  return (
    <Box size={size}>
      {motion.parts.map((p, i) => {
        const a = [...(motion.moves[from]?.[i] ?? [])];
        const b = motion.moves[from + 1]?.[i] ?? a;
        for (const list of [a]) while (list.length < 5) list.push(list.length === 3 ? p.wide : p.high);
        const at = a.map((v, n) => v + ((b[n] ?? (n === 3 ? p.wide : p.high)) - v) * rest);
        // biome-ignore lint/suspicious/noArrayIndexKey: parts have an order and nothing else
        return <Shape key={i} part={p} at={at} />;
      })}
    </Box>
  );
}

/** Start and end of an exercise side by side; where there is no drawing, the text stands alone. */
export function Picture({ picture, size = 72 }: { picture: Schema["Picture"] | undefined; size?: number }) {
  if (!picture) return null;
  return (
    <span className="flex max-w-full shrink-0 gap-1 [&>svg]:min-w-0 [&>svg]:shrink">
      <Drawing parts={picture.start} size={size} />
      <Drawing parts={picture.end} size={size} />
    </span>
  );
}
