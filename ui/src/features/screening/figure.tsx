/**
 * A small figure for each test: lines between joints in a 64 × 64 box, ours.
 * Poses are shared by tests that look alike; the floor is at y = 58.
 */
type Line = number[];
const head = (x: number, y: number): Line => [x, y, -1];
const poses: Record<string, Line[]> = {
  heels: [
    head(30, 9),
    [30, 14, 30, 34],
    [30, 34, 26, 46, 24, 56, 30, 51],
    [30, 34, 35, 45, 40, 55, 45, 49],
    [30, 19, 24, 31],
    [30, 19, 37, 30],
  ],
  toes: [
    head(31, 7),
    [31, 12, 31, 32],
    [31, 32, 28, 44, 26, 52, 30, 58],
    [31, 32, 36, 43, 39, 52, 44, 58],
    [31, 18, 25, 29],
    [31, 18, 38, 28],
  ],
  run: [
    head(36, 9),
    [35, 14, 31, 33],
    [31, 33, 41, 41, 37, 54, 43, 57],
    [31, 33, 22, 42, 12, 38],
    [35, 18, 27, 26, 33, 32],
    [35, 18, 43, 26, 49, 20],
  ],
  stand: [
    head(32, 8),
    [32, 13, 32, 34],
    [32, 34, 29, 46, 29, 57, 34, 57],
    [32, 34, 35, 46, 35, 57, 40, 57],
    [32, 18, 27, 32],
    [32, 18, 37, 32],
  ],
  foot: [
    [12, 22, 20, 22, 24, 38, 34, 44, 50, 50, 54, 56, 12, 56, 11, 46, 12, 22],
    [22, 56, 28, 50, 38, 56],
  ],
  toesTop: [
    [22, 58, 20, 36, 24, 22, 42, 22, 44, 36, 41, 58],
    [25, 22, 25, 10],
    [31, 22, 32, 13],
    [35, 22, 37, 15],
    [39, 23, 42, 18],
    [42, 25, 47, 22],
  ],
  lunge: [
    head(30, 12),
    [30, 17, 27, 36],
    [27, 36, 42, 42, 34, 57, 42, 57],
    [27, 36, 18, 46, 8, 55, 13, 57],
    [29, 21, 40, 24, 50, 20],
    [51, 4, 51, 58],
  ],
  seated: [
    head(24, 12),
    [24, 17, 22, 38],
    [22, 38, 42, 38, 36, 57, 44, 57],
    [12, 40, 30, 40, 30, 58],
    [23, 22, 34, 32],
  ],
  toeLift: [
    [8, 28, 16, 28, 20, 42, 34, 50, 42, 54],
    [42, 54, 55, 42],
    [8, 28, 8, 56, 42, 56],
    [42, 56, 60, 56],
  ],
  kneel: [
    head(28, 12),
    [28, 17, 24, 36],
    [24, 36, 44, 54, 18, 52, 22, 58],
    [27, 22, 38, 34],
    [6, 58, 58, 58],
  ],
  raise: [
    head(30, 7),
    [30, 12, 30, 32],
    [30, 32, 30, 43, 28, 52, 33, 58],
    [30, 32, 36, 42, 30, 50],
    [30, 17, 40, 24, 50, 22],
    [51, 4, 51, 58],
  ],
  wallSit: [head(18, 14), [18, 19, 18, 40], [18, 40, 36, 40, 34, 53, 40, 58], [12, 4, 12, 58]],
  split: [
    head(32, 8),
    [32, 13, 32, 33],
    [32, 33, 44, 40, 43, 57, 50, 57],
    [32, 33, 24, 47, 14, 53, 17, 58],
    [32, 18, 27, 31],
  ],
  band: [
    head(16, 14),
    [16, 19, 14, 40],
    [14, 40, 34, 42, 52, 42, 54, 32],
    [56, 30, 62, 44],
    [15, 24, 26, 36],
    [4, 42, 14, 42],
  ],
  stance: [
    head(32, 7),
    [32, 12, 32, 34],
    [32, 34, 32, 46, 32, 57, 38, 57],
    [32, 34, 38, 42, 32, 48],
    [32, 17, 26, 25, 31, 31],
    [32, 17, 38, 25, 33, 31],
  ],
  reach: [
    head(26, 9),
    [26, 14, 24, 34],
    [24, 34, 29, 45, 25, 57, 31, 57],
    [24, 34, 38, 44, 54, 56],
    [26, 18, 36, 26],
    [26, 18, 18, 28],
  ],
  hop: [
    head(32, 5),
    [32, 10, 32, 30],
    [32, 30, 29, 40, 30, 48, 34, 53],
    [32, 30, 35, 40, 36, 48, 40, 53],
    [32, 15, 25, 22],
    [32, 15, 39, 22],
    [22, 58, 28, 58],
    [36, 58, 42, 58],
  ],
};

const of: Record<string, string> = {
  "heel-walk": "heels",
  "toe-walk": "toes",
  "brisk-walk": "stand",
  arch: "foot",
  navicular: "foot",
  "posture-index": "foot",
  tripod: "foot",
  "short-foot": "foot",
  "foot-brace": "foot",
  "weight-forward": "stand",
  squat: "wallSit",
  "toe-drift": "toesTop",
  bunion: "toesTop",
  clawing: "toesTop",
  "tendons-out": "toesTop",
  "toe-big": "toesTop",
  "toe-small": "toesTop",
  "toe-spread": "toesTop",
  "toe-lower": "toesTop",
  "toe-press": "toeLift",
  "knee-to-wall": "lunge",
  "seated-shin": "seated",
  "big-toe-passive": "toeLift",
  "big-toe-flat": "toeLift",
  "big-toe-active": "toeLift",
  "tucked-kneel": "kneel",
  "wall-sit": "wallSit",
  "shin-raise": "heels",
  "split-hold": "split",
  "band-in": "band",
  "band-out": "band",
  "stance-open": "stance",
  "stance-closed": "stance",
  "ball-hold-two": "toes",
};
const byStation: Record<string, string> = {
  Walk: "stand",
  Run: "run",
  Stand: "stand",
  Bend: "lunge",
  Steer: "toesTop",
  "Hold and lift": "raise",
  "Balance and reach": "reach",
  Spring: "hop",
};

export function Figure({ test, station }: { test: string; station: string }) {
  const lines = poses[of[test] ?? byStation[station] ?? "stand"] ?? [];
  return (
    <svg
      viewBox="0 0 64 64"
      className="size-16 shrink-0"
      aria-hidden="true"
      fill="none"
      stroke="var(--ink)"
      strokeWidth="2.4"
      strokeLinecap="round"
      strokeLinejoin="round"
    >
      <path d="M4 60H60" stroke="var(--rule)" strokeWidth="2" />
      {lines.map((l) => {
        if (l[2] === -1) return <circle key={l.join()} cx={l[0]} cy={l[1]} r="4.6" fill="var(--paper)" />;
        const pairs: string[] = [];
        for (let i = 0; i < l.length; i += 2) pairs.push(`${l[i]} ${l[i + 1]}`);
        return <path key={l.join()} d={`M${pairs.join("L")}`} />;
      })}
    </svg>
  );
}
