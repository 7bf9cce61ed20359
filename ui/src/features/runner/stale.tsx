import type { Typed } from "./form";

/** Somebody else saved in the meantime: what stands now, and whose is kept. */
export function Stale({ theirs, take }: { theirs: [string, string][]; take: (all: boolean) => void }) {
  return (
    <div role="alert" className="mb-6 border-l-4 border-clay bg-paper p-4">
      <h3>Someone else saved this runner in the meantime</h3>
      <p className="mt-1">What you typed is still here. What stands now and differs:</p>
      <ul className="mt-2 list-disc pl-5">
        {theirs.map(([k, now]) => (
          <li key={k}>
            {k}: <b>{now || "empty"}</b>
          </li>
        ))}
        {theirs.length === 0 && <li>nothing; both say the same</li>}
      </ul>
      <div className="mt-3 flex flex-wrap gap-3">
        <button type="button" className="btn" onClick={() => take(true)}>
          Take what stands now
        </button>
        <button type="button" className="btn" onClick={() => take(false)}>
          Keep mine, then save again
        </button>
      </div>
    </div>
  );
}

const labels: Record<keyof Typed, string> = {
  name: "Name",
  birth: "Date of birth",
  sex: "Sex",
  massKg: "Body mass",
  weeklyKm: "Running",
  goal: "Goal",
  note: "Note",
  firstStructuredWork: "First structured strength work",
  recentVolumeRise: "Volume up",
  intakeFirstStep: "First steps",
};

export function differences(now: Typed, mine: Typed): [string, string][] {
  return (Object.keys(labels) as (keyof Typed)[])
    .filter((k) => String(now[k] ?? "") !== String(mine[k] ?? ""))
    .map((k) => [labels[k], String(now[k] ?? "")]);
}
