import { t } from "@lingui/core/macro";
import { sideName } from "./sidename";
/** One place of the body map: its middle and size on the drawing of the right side. */
export type Spot = { zone: string; name: string; x: number; y: number; r: number };

export type View = "sole" | "front" | "back" | "outer" | "inner" | "upper";

/** Every view is drawn for the right side; the left is its mirror image. */
export const views: Record<View, { label: string; width: number; spots: Spot[] }> = {
  sole: {
    label: t`soles`,
    width: 84,
    spots: [
      { zone: "heel", name: t`heel underside`, x: 42, y: 138, r: 14 },
      { zone: "arch", name: t`arch`, x: 32, y: 100, r: 12 },
      { zone: "outer-foot", name: t`outer midfoot`, x: 56, y: 98, r: 10 },
      { zone: "ball", name: t`ball of the foot`, x: 51, y: 58, r: 13 },
      { zone: "big-toe", name: t`big-toe joint`, x: 25, y: 50, r: 11 },
      { zone: "toes", name: t`lesser toes`, x: 58, y: 24, r: 11 },
    ],
  },
  front: {
    label: t`front`,
    width: 60,
    spots: [
      { zone: "kneecap", name: t`kneecap, front`, x: 30, y: 18, r: 11 },
      { zone: "front-shin", name: t`front of the shin`, x: 27, y: 62, r: 11 },
      { zone: "top-foot", name: t`top of the foot`, x: 30, y: 148, r: 9 },
    ],
  },
  back: {
    label: t`back`,
    width: 60,
    spots: [
      { zone: "calf", name: t`calf`, x: 30, y: 56, r: 14 },
      { zone: "achilles-mid", name: t`Achilles, middle`, x: 30, y: 112, r: 10 },
      { zone: "achilles-low", name: t`Achilles, at the heel bone`, x: 30, y: 138, r: 11 },
    ],
  },
  outer: {
    label: t`outer side`,
    width: 78,
    spots: [
      { zone: "outer-shin", name: t`outer shin`, x: 29, y: 66, r: 11 },
      { zone: "outer-ankle", name: t`outer ankle`, x: 29, y: 134, r: 10 },
      { zone: "fifth-base", name: t`base of the fifth metatarsal`, x: 43, y: 156, r: 8 },
    ],
  },
  inner: {
    label: t`inner side`,
    width: 78,
    spots: [
      { zone: "inner-shin", name: t`inner shin border`, x: 47, y: 88, r: 11 },
      { zone: "inner-ankle", name: t`inner ankle`, x: 49, y: 134, r: 10 },
      { zone: "navicular", name: t`navicular, inner midfoot`, x: 35, y: 150, r: 8 },
    ],
  },
  upper: {
    label: t`thigh and hip`,
    width: 62,
    spots: [
      { zone: "hip", name: t`hip`, x: 46, y: 12, r: 11 },
      { zone: "groin", name: t`groin`, x: 21, y: 34, r: 10 },
      { zone: "thigh", name: t`thigh`, x: 31, y: 88, r: 15 },
    ],
  },
};

export const viewNames = Object.keys(views) as View[];

/** What a zone is called. */
export const zoneName = (zone: string) =>
  viewNames.flatMap((v) => views[v].spots).find((s) => s.zone === zone)?.name ?? t`somewhere else`;

/** The view a zone is drawn on. */
export const viewOf = (zone: string): View =>
  viewNames.find((v) => views[v].spots.some((s) => s.zone === zone)) ?? "sole";

// From the knee down: the calf behind, the shin in front, heel and toes below.
const side =
  "M19 -8C17 4 16 12 17 24 13 36 10 48 12 62 14 80 21 94 22 110c0 10-2 16-5 23-4 8-6 16-2 22 3 5 8 6 14 6h36c9 0 9-7 1-10-10-4-18-8-24-16-4-6-6-14-6-24 1-22 4-40 4-58 1-12 2-22 1-30 1-12 1-20 1-31";
const frontLine =
  "M15 -8C15 6 14 12 13 20c-3 11-5 22-4 34 1 18 7 36 9 56 1 10-2 16-2 23 0 8 0 12-3 18-3 7 2 12 9 12h16c8 0 13-5 9-12-3-6-2-11-2-16 1-7-3-12-3-22 1-20 8-38 9-56 1-13-2-25-4-36-1-9-1-16-1-29";
const backLine =
  "M15 -8C15 6 14 12 13 20 10 31 8 41 9 54c1 20 10 38 12 56 1 9-2 14-3 22-1 9 0 16 2 23 2 6 5 8 10 8s8-2 10-8c2-7 3-14 2-23-1-8-4-13-3-22 2-18 11-36 12-56 1-13-1-23-4-34-1-8-2-14-2-28";
// From the hip to under the knee, seen from the front; drawn for the left, turned over.
const upperLine =
  "M13 -8C6 8 4 30 6 52c2 32 7 60 11 82 2 12 1 22 0 34M34 -8V18c8 5 20 12 21 34 1 30-5 60-8 82-2 12-1 22 0 34";
const upperFace =
  "M13 -8C6 8 4 30 6 52c2 32 7 60 11 82 2 12 1 22 0 34H46c-1 -12 -2 -22 0 -34 3 -22 9 -52 8 -82C54 38 42 23 34 18V-8Z";
const soleLine =
  "M18 44c-7 3-9 10-8 18 1 10 7 16 8 28 1 14-5 26-3 42 2 17 12 27 26 27s25-9 25-25c0-14-5-22-3-36 2-16 14-26 12-44-2-14-13-19-27-18-11 0-20 3-30 8z";
const toes = [
  [24, 26, 12, 13],
  [41, 20, 7, 8],
  [53, 23, 6.4, 7.4],
  [63, 30, 5.8, 6.6],
  [71, 40, 5, 5.8],
] as const;

const line = {
  fill: "var(--paper)",
  stroke: "var(--ink)",
  strokeWidth: 2,
  strokeLinejoin: "round",
  strokeLinecap: "round",
} as const;
const fine = { ...line, fill: "none", stroke: "var(--edge)", strokeWidth: 1.2 };

/** The drawing of one limb, right side; nothing of it is told by colour. */
export function Limb({ view }: { view: View }) {
  switch (view) {
    case "sole":
      return (
        <>
          <path d={soleLine} {...line} />
          {toes.map(([x, y, rx, ry]) => (
            <ellipse key={x} cx={x} cy={y} rx={rx} ry={ry} {...line} strokeWidth="1.8" />
          ))}
          <path d="M22 74c6 5 12 16 11 34M26 128c9-5 20-5 30 0" {...fine} />
        </>
      );
    case "front":
      return (
        <>
          <path d={frontLine} {...line} />
          <path
            d="M21 10c-2 10 2 17 9 17s11-7 9-17M27 34c-3 30-1 58 2 84M18 158v5M25 157v6M32 157v6M38 158v5"
            {...fine}
          />
        </>
      );
    case "back":
      return (
        <>
          <path d={backLine} {...line} />
          <path
            d="M30 24c-1 18-1 34 0 50M13 62c3 16 10 22 17 14M47 58c-2 14-9 22-17 18M26 92c1 12 0 26-2 38M34 92c-1 12 0 26 2 38"
            {...fine}
          />
        </>
      );
    case "outer":
      return (
        <>
          <path d={side} {...line} />
          <path
            d="M32 10c3 8 3 12 1 18M34 36c-1 24-3 46-2 74M24 130a6 6 0 1 1 8 6M34 152c8-3 14-3 22 2"
            {...fine}
          />
        </>
      );
    case "upper":
      return (
        <g transform="translate(62 0) scale(-1 1)">
          <path d={upperFace} fill="var(--paper)" />
          <path d={upperLine} {...line} fill="none" />
          <path
            d="M34 20c5 3 9 6 14 11M20 40c-2 26 0 52 6 78M23 150c0-9 3-13 8-13s8 4 8 13-3 13-8 13-8-4-8-13"
            {...fine}
          />
        </g>
      );
    case "inner":
      return (
        <g transform="translate(78 0) scale(-1 1)">
          <path d={side} {...line} />
          <path
            d="M32 10c3 8 3 12 1 18M33 36c-4 24-5 46-3 74M24 130a6 6 0 1 1 8 6M28 160c6-9 18-9 26-1"
            {...fine}
          />
        </g>
      );
  }
}

export const limbTop = -10;
export const limbHeight = 178;

type Hurt = { zone: string; side?: "left" | "right" | ""; pain: number; name: string };

const at = (list: Hurt[], view: View, side: "left" | "right") =>
  views[view].spots.flatMap((s) => {
    const h = list.find((x) => x.zone === s.zone && (!x.side || x.side === side));
    return h ? [{ s, h }] : [];
  });

function Marked({
  view,
  side,
  hurts,
  small,
}: {
  view: View;
  side: "left" | "right";
  hurts: Hurt[];
  small?: boolean;
}) {
  const w = views[view].width;
  return (
    <svg
      viewBox={`-4 ${limbTop} ${w + 8} ${limbHeight}`}
      className={small ? "h-11 w-auto" : "h-44 w-auto"}
      aria-hidden="true"
    >
      <g transform={side === "left" ? `translate(${w} 0) scale(-1 1)` : undefined}>
        <Limb view={view} />
        {at(hurts, view, side).map(({ s, h }) => (
          <g key={s.zone}>
            <circle cx={s.x} cy={s.y} r={small ? 17 : s.r + 2} fill="var(--clay)" />
            {!small && (
              <text
                x={s.x}
                y={s.y + 6}
                textAnchor="middle"
                fontSize="17"
                fontWeight="700"
                fill="var(--paper)"
                transform={side === "left" ? `translate(${2 * s.x} 0) scale(-1 1)` : undefined}
              >
                {h.pain}
              </text>
            )}
          </g>
        ))}
      </g>
    </svg>
  );
}

/** Which side is which, under a pair. */
export function Sides({ view }: { view: View }) {
  return (
    <figcaption className="flex justify-between px-2 text-[13px]">
      <span className="text-lefty">{t`left`}</span>
      <span className="text-ink-2">{views[view].label}</span>
      <span className="text-righty">{t`right`}</span>
    </figcaption>
  );
}

const words = (list: Hurt[]) =>
  list.length === 0
    ? t`Nothing hurts`
    : list.map((h) => t`${h.name}${h.side ? `, ${sideName(h.side)}` : ""}: ${h.pain} of 10`).join("; ");

/** A small pair that shows where it hurts. */
export function SmallPair({ hurts }: { hurts: Hurt[] }) {
  const view = hurts[0] ? viewOf(hurts[0].zone) : "sole";
  return (
    <span role="img" aria-label={words(hurts)} title={words(hurts)} className="inline-flex gap-0.5">
      <Marked view={view} side="left" hurts={hurts} small />
      <Marked view={view} side="right" hurts={hurts} small />
    </span>
  );
}

/** Soles, and the views of the legs on which something hurts, with its number. */
export function HurtMap({ hurts }: { hurts: Hurt[] }) {
  const shown = viewNames.filter(
    (v) => v === "sole" || at(hurts, v, "left").length + at(hurts, v, "right").length,
  );
  return (
    <div role="img" aria-label={words(hurts)} className="flex flex-wrap gap-x-5 gap-y-3">
      {shown.map((v) => (
        <figure key={v}>
          <div className="flex justify-center gap-1">
            <Marked view={v} side="left" hurts={hurts} />
            <Marked view={v} side="right" hurts={hurts} />
          </div>
          <Sides view={v} />
        </figure>
      ))}
    </div>
  );
}
