import { t } from "@lingui/core/macro";
import type { Schema } from "../api/client";

type Stroke = Schema["FigureStroke"];

const hue: Record<Stroke["kind"], string> = {
  near: "var(--ink)",
  far: "var(--edge)",
  thing: "var(--pine)",
  floor: "var(--rule)",
  mark: "var(--clay)",
};
const width: Record<Stroke["kind"], number> = { near: 4, far: 3.4, thing: 2.6, floor: 2, mark: 2.4 };

/** One position of an exercise, drawn from the strokes the server sends. */
export function Drawing({ strokes, size = 72 }: { strokes: readonly Stroke[]; size?: number }) {
  return (
    <svg
      viewBox="0 0 100 100"
      width={size}
      height={size}
      className="shrink-0"
      aria-hidden="true"
      fill="none"
      strokeLinecap="round"
      strokeLinejoin="round"
    >
      {strokes.map((s) => {
        const key = `${s.kind}${s.radius ?? ""}${s.points.join()}`;
        const first = s.points[0];
        if (s.radius && first)
          return (
            <circle
              key={key}
              cx={first[0]}
              cy={first[1]}
              r={s.radius}
              stroke={hue[s.kind]}
              strokeWidth={width[s.kind]}
              fill={s.kind === "near" ? "var(--paper)" : "none"}
            />
          );
        return (
          <path
            key={key}
            d={`M${s.points.map((p) => (p ?? []).join(" ")).join("L")}${s.closed ? "Z" : ""}`}
            stroke={hue[s.kind]}
            strokeWidth={width[s.kind]}
          />
        );
      })}
    </svg>
  );
}

/** Start and end of an exercise side by side. */
export function Picture({ picture, size = 72 }: { picture: Schema["Picture"] | undefined; size?: number }) {
  if (!picture)
    return (
      <span
        className="grid shrink-0 place-items-center border border-dashed border-rule text-[12px] text-ink-2"
        style={{ width: size, height: size }}
      >
        {t`no drawing`}
      </span>
    );
  return (
    <span className="flex max-w-full shrink-0 gap-1 [&>svg]:min-w-0 [&>svg]:shrink">
      <Drawing strokes={picture.start} size={size} />
      <Drawing strokes={picture.end} size={size} />
    </span>
  );
}
