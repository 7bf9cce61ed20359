import { t } from "@lingui/core/macro";
import { memo } from "react";
import type { Schema } from "../api/client";
import { Limb, limbHeight, limbTop, Sides, type View, viewNames, views } from "./limbs";
import { sideName } from "./sidename";

type Complaint = Pick<Schema["ScreeningComplaint"], "zone" | "side">;
type Picked = (zone: string, side: "left" | "right") => void;

/** How far beside a spot a tap still means it, in units of the drawing. */
const thumb = 24;

/** The spot nearest to where the drawing was tapped. */
function nearest(e: React.PointerEvent<SVGSVGElement>, view: View, side: "left" | "right") {
  const to = e.currentTarget.getScreenCTM?.()?.inverse();
  if (!to) return undefined;
  const at = new DOMPoint(e.clientX, e.clientY).matrixTransform(to);
  const { width, spots } = views[view];
  const x = side === "left" ? width - at.x : at.x;
  const far = (s: (typeof spots)[number]) => Math.hypot(s.x - x, s.y - at.y) - s.r;
  const best = [...spots].sort((a, b) => far(a) - far(b))[0];
  return best && far(best) <= thumb ? best.zone : undefined;
}

function Shape({
  view,
  side,
  complaints,
  pick,
}: {
  view: View;
  side: "left" | "right";
  complaints: Complaint[];
  pick: Picked;
}) {
  const w = views[view].width;
  return (
    <svg
      viewBox={`-4 ${limbTop} ${w + 8} ${limbHeight}`}
      className="h-50 w-auto cursor-pointer"
      onPointerUp={(e) => {
        if ((e.target as Element).closest("[role=button]")) return; // the spot hears it itself
        const near = nearest(e, view, side);
        if (near) pick(near, side);
      }}
    >
      <title>
        {view === "sole" ? t`${sideName(side)} sole` : t`${sideName(side)} leg, ${views[view].label}`}
      </title>
      <g transform={side === "left" ? `translate(${w} 0) scale(-1 1)` : undefined}>
        <Limb view={view} />
        {views[view].spots.map((s) => {
          const on = complaints.some((c) => c.zone === s.zone && c.side === side);
          return (
            // biome-ignore lint/a11y/useSemanticElements: a spot of a drawing can't be a button element
            <circle
              key={s.zone}
              role="button"
              tabIndex={0}
              aria-pressed={on}
              aria-label={`${s.name}, ${sideName(side)}`}
              cx={s.x}
              cy={s.y}
              r={s.r}
              fill={on ? "var(--clay)" : "transparent"}
              stroke={on ? "var(--clay)" : "var(--edge)"}
              strokeDasharray={on ? undefined : "2 3"}
              className="cursor-pointer outline-offset-1"
              onClick={() => pick(s.zone, side)}
              onKeyDown={(e) => {
                if (e.key === "Enter" || e.key === " ") {
                  e.preventDefault();
                  pick(s.zone, side);
                }
              }}
            />
          );
        })}
      </g>
    </svg>
  );
}

/** Soles and lower legs from four sides to tap complaints on; left is left. */
export const SoleMap = memo(function SoleMap({
  complaints,
  pick,
}: {
  complaints: Complaint[];
  pick: Picked;
}) {
  return (
    <div className="flex flex-wrap [contain:content] justify-between gap-x-2 gap-y-3">
      {viewNames.map((v) => (
        <figure key={v} className="max-w-full">
          <div className="flex justify-center gap-1 [&>svg]:min-w-0">
            <Shape view={v} side="left" complaints={complaints} pick={pick} />
            <Shape view={v} side="right" complaints={complaints} pick={pick} />
          </div>
          <Sides view={v} />
        </figure>
      ))}
    </div>
  );
});
