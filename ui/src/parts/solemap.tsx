import type { Schema } from "../api/client";

type Complaint = Schema["ScreeningComplaint"];
type Spot = { zone: string; name: string; x: number; y: number; r?: number };

// Drawn for the right foot and leg; the left is the mirror image. Seen as the
// runner looks down: soles as if the foot were glass, legs from front and back.
const sole: Spot[] = [
  { zone: "heel", name: "heel underside", x: 40, y: 132, r: 15 },
  { zone: "arch", name: "arch", x: 34, y: 92, r: 12 },
  { zone: "outer-foot", name: "outer midfoot", x: 60, y: 92, r: 10 },
  { zone: "ball", name: "ball of the foot", x: 52, y: 52, r: 13 },
  { zone: "big-toe", name: "big-toe joint", x: 28, y: 44, r: 10 },
  { zone: "toes", name: "lesser toes", x: 58, y: 18, r: 12 },
];
const front: Spot[] = [
  { zone: "kneecap", name: "kneecap, front", x: 30, y: 16, r: 12 },
  { zone: "outer-shin", name: "outer shin", x: 43, y: 58, r: 9 },
  { zone: "front-shin", name: "front of the shin", x: 25, y: 52, r: 9 },
  { zone: "inner-shin", name: "inner shin border", x: 22, y: 90, r: 11 },
  { zone: "top-foot", name: "top of the foot", x: 30, y: 151, r: 8 },
  { zone: "outer-ankle", name: "outer ankle", x: 42, y: 134, r: 9 },
  { zone: "inner-ankle", name: "inner ankle", x: 17, y: 132, r: 9 },
];
const back: Spot[] = [
  { zone: "calf", name: "calf", x: 30, y: 56, r: 14 },
  { zone: "achilles-mid", name: "Achilles, middle", x: 30, y: 112, r: 10 },
  { zone: "achilles-low", name: "Achilles, at the heel bone", x: 30, y: 134, r: 10 },
];

const soleLine =
  "M38 8c-13 1-19 14-18 30 1 16 6 26 5 44-1 16-5 26-3 40 2 16 9 26 19 26s18-9 19-24c1-15 0-24 3-40 4-20 10-30 9-46C70 16 58 6 38 8z";
const toes = [
  [28, 0, 9, 10],
  [43, -4, 6, 7],
  [54, -1, 5.4, 6],
  [63, 5, 5, 5.6],
  [70, 13, 4.6, 5],
] as const;
const legLine =
  "M14 2c-3 22-8 34-7 54 1 24 7 40 8 62 0 14-2 22-4 32h38c-2-10-4-18-4-32 1-22 8-38 8-62 0-20-5-32-9-54z";

function Shape({
  spots,
  leg,
  side,
  complaints,
  pick,
}: {
  spots: Spot[];
  leg: boolean;
  side: "left" | "right";
  complaints: Complaint[];
  pick: (zone: string, side: "left" | "right") => void;
}) {
  const w = leg ? 60 : 84;
  const mirror = side === "left" ? `translate(${w} 0) scale(-1 1)` : undefined;
  return (
    <svg viewBox={`-4 -12 ${w + 8} 176`} className="h-50 w-auto">
      <title>{`${side} ${leg ? "leg" : "sole"}`}</title>
      <g transform={mirror}>
        <path d={leg ? legLine : soleLine} fill="var(--paper)" stroke="var(--ink)" strokeWidth="1.8" />
        {!leg &&
          toes.map(([x, y, rx, ry]) => (
            <ellipse
              key={x}
              cx={x}
              cy={y}
              rx={rx}
              ry={ry}
              fill="var(--paper)"
              stroke="var(--ink)"
              strokeWidth="1.6"
            />
          ))}
        {spots.map((s) => {
          const on = complaints.some((c) => c.zone === s.zone && c.side === side);
          return (
            // biome-ignore lint/a11y/useSemanticElements: a spot of a drawing can't be a button element
            <circle
              key={s.zone}
              role="button"
              tabIndex={0}
              aria-pressed={on}
              aria-label={`${s.name}, ${side}`}
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

/** Two soles and two lower legs to tap complaints on; left is left. */
export function SoleMap({
  complaints,
  pick,
}: {
  complaints: Complaint[];
  pick: (zone: string, side: "left" | "right") => void;
}) {
  const group = (label: string, spots: Spot[], leg: boolean) => (
    <figure className="max-w-full">
      <div className="flex justify-center gap-1 [&>svg]:min-w-0">
        <Shape spots={spots} leg={leg} side="left" complaints={complaints} pick={pick} />
        <Shape spots={spots} leg={leg} side="right" complaints={complaints} pick={pick} />
      </div>
      <figcaption className="flex justify-between px-2 text-[13px]">
        <span className="text-lefty">left</span>
        <span className="text-ink-2">{label}</span>
        <span className="text-righty">right</span>
      </figcaption>
    </figure>
  );
  return (
    <div className="flex flex-wrap justify-between gap-x-2 gap-y-3">
      {group("soles", sole, false)}
      {group("front", front, true)}
      {group("back", back, true)}
    </div>
  );
}
