import { t } from "@lingui/core/macro";
import type { Typed } from "./form";

/** Somebody else saved in the meantime: what stands now, and whose is kept. */
export function Stale({ theirs, take }: { theirs: [string, string][]; take: (all: boolean) => void }) {
  return (
    <div role="alert" className="mb-6 border-l-4 border-clay bg-paper p-4">
      <h2>{t`Someone else saved this runner in the meantime`}</h2>
      <p className="mt-1">{t`What you typed is still here. What stands now and differs:`}</p>
      <ul className="mt-2 list-disc pl-5">
        {theirs.map(([k, now]) => (
          <li key={k}>
            {k}: <b>{now || t`empty`}</b>
          </li>
        ))}
        {theirs.length === 0 && <li>{t`nothing; both say the same`}</li>}
      </ul>
      <div className="mt-3 flex flex-wrap gap-3">
        <button type="button" className="btn" onClick={() => take(true)}>
          {t`Take what stands now`}
        </button>
        <button type="button" className="btn" onClick={() => take(false)}>
          {t`Keep mine, then save again`}
        </button>
      </div>
    </div>
  );
}

const labels: Record<keyof Typed, string> = {
  name: t`Name`,
  birth: t`Date of birth`,
  sex: t`Sex`,
  massKg: t`Body mass`,
  weeklyKm: t`Running`,
  goal: t`Goal`,
  language: t`Language`,
  note: t`Note`,
  firstStructuredWork: t`First structured strength work`,
  recentVolumeRise: t`Volume up`,
  intakeFirstStep: t`First steps`,
};

export function differences(now: Typed, mine: Typed): [string, string][] {
  return (Object.keys(labels) as (keyof Typed)[])
    .filter((k) => String(now[k] ?? "") !== String(mine[k] ?? ""))
    .map((k) => [labels[k], String(now[k] ?? "")]);
}
