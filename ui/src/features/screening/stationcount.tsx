import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { Schema } from "../../api/client";
import type { Test } from "./screening";

/** The station to open at: where the last trial was taken, on whatever device. */
export function firstStation(s: Schema["Screening"], tests: Test[]): string {
  if (s.finished) return t`Findings`;
  const last = Math.max(-1, ...s.trials.map((trial) => tests.findIndex((x) => x.id === trial.test)));
  if (last >= 0) return tests[last]?.station ?? t`Talk`;
  return t`Talk`;
}

export function StationCount({ name, s, tests }: { name: string; s: Schema["Screening"]; tests: Test[] }) {
  if (name === "Talk")
    return s.unasked.length > 0 ? (
      <span className="ml-1.5 text-[13px] text-ink-2">{t`${s.unasked.length} open`}</span>
    ) : null;
  if (name === "Findings")
    return s.findings.length > 0 ? (
      <span className="ml-1.5 text-[13px] text-ink-2">{s.findings.length}</span>
    ) : null;
  const left = tests.filter((it) => {
    const r = s.results.find((x) => x.test === it.id);
    return !(r && r.left.value !== undefined && (!it.sided || r.right.value !== undefined));
  });
  if (left.length === 0) return <span className="ml-1.5 text-[13px] text-pine">{t`done`}</span>;
  const minutes = Math.max(1, Math.round(left.reduce((n, test) => n + test.seconds, 0) / 60));
  return (
    <span className="ml-1.5 text-[13px] text-ink-2">
      <Trans>
        {left.length}
        <span className="sr-only"> tests left,</span> · {minutes} min
      </Trans>
    </span>
  );
}
