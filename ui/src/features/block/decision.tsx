import { t } from "@lingui/core/macro";
import { useState } from "react";
import { api, need, type Schema } from "../../api/client";
import { useBlockChange } from "../../api/hooks";
import { dayMonth } from "../../parts/dates";
import { DecisionMark, SideName, verdictHue } from "../../parts/marks";
import { Reasons, Source } from "../../parts/reasons";
import { SaveState } from "../../parts/states";
import { Override } from "./override";

export type Prescription = Schema["PrescriptionView"];
export type Decision = Schema["DecisionView"];

const stateWord: Record<Decision["state"], string> = {
  proposed: t`yours to accept`,
  applied: "applied",
  accepted: "accepted",
  overridden: "overridden",
  waiting: t`waits for the next morning`,
};

const verdictWord = (d: Decision) =>
  d.putBack ? t`put back` : d.decision.resume ? t`start again` : d.decision.verdict;

/** A coach sets the notch of an up, a hold or a back; a stop is not theirs to set, a way back is answered. */
const mayOverride = (d: Decision) =>
  d.state !== "overridden" && !d.putBack && !d.decision.resume && d.decision.verdict !== "stop";

type Fold = [Decision, ...Decision[]];

/** Both sides as one where they say the same. */
export function folded(latest: Decision[]): Fold[] {
  const sorted = [...latest].sort((a, b) => a.side.localeCompare(b.side));
  const [a, b] = sorted;
  if (
    a &&
    b &&
    a.state === b.state &&
    a.move === b.move &&
    a.because === b.because &&
    a.barred === b.barred &&
    a.mayTakeBack === b.mayTakeBack &&
    a.state !== "overridden"
  )
    return [[a, b]];
  return sorted.map((d) => [d]);
}

/** One answer to both sides where they say the same. */
function useAnswer(ds: Fold, path: "/api/decisions/{id}/accept" | "/api/decisions/{id}/take-back") {
  return useBlockChange(async () => {
    const [first, ...rest] = ds;
    const say = (x: Decision) =>
      need(api.POST(path, { params: { path: { id: x.id } }, body: { version: x.version } }));
    let block = await say(first);
    for (const x of rest) block = await say(x);
    return block;
  });
}

export function DecisionLine({ ds, p, short }: { ds: Fold; p: Prescription; short?: boolean }) {
  const [changing, setChanging] = useState(false);
  const d = ds[0];
  const side = ds.length > 1 ? "both" : d.side;
  const accept = useAnswer(ds, "/api/decisions/{id}/accept");
  const takeBack = useAnswer(ds, "/api/decisions/{id}/take-back");
  const open = d.state === "proposed";
  return (
    <div className="text-[14px] leading-snug">
      <p className="flex flex-wrap items-center gap-x-2">
        <span
          className={`inline-flex items-center gap-2 text-[15px] font-semibold ${verdictHue[d.decision.verdict]}`}
        >
          <DecisionMark verdict={d.decision.verdict} />
          {verdictWord(d)}
        </span>
        <SideName side={side} />
        <span className="text-ink-2">{stateWord[d.state]}</span>
      </p>
      <p>{d.move}</p>
      <p className="text-ink-2">
        {short ? (d.because.split("; ")[0] ?? "") : d.because}
        {d.state === "overridden" && t`; you chose notch ${d.answerNotch ?? ""}: ${d.answerReason ?? ""}`}
      </p>
      {open && d.barred && <p className="text-clay first-letter:uppercase">{d.barred}</p>}
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        {open && (
          <button
            type="button"
            className="btn btn-main my-1 min-h-8 px-3"
            disabled={accept.isPending || !!d.barred}
            onClick={() => accept.mutate(undefined)}
            aria-label={t`Accept: ${p.name}, ${side}, ${d.move}`}
          >
            {t`Accept`}
          </button>
        )}
        {d.mayTakeBack && (
          <button
            type="button"
            className="btn-quiet"
            disabled={takeBack.isPending}
            onClick={() => takeBack.mutate(undefined)}
            aria-label={t`take back the answer: ${p.name}, ${side}`}
          >
            {t`Take back`}
          </button>
        )}
        <DecisionWhy d={d} title={`${p.name}, ${side === "both" ? t`both sides` : side}`} />
        {mayOverride(d) && (
          <button
            type="button"
            className="btn-quiet"
            aria-expanded={changing}
            aria-label={t`override: ${p.name}, ${side}`}
            onClick={() => setChanging(!changing)}
          >
            {t`Override`}
          </button>
        )}
      </div>
      <SaveState error={accept.error ?? takeBack.error} saving={accept.isPending || takeBack.isPending} />
      {changing && ds.map((x) => <Override key={x.id} d={x} p={p} done={() => setChanging(false)} />)}
    </div>
  );
}

function DecisionWhy({ d, title }: { d: Decision; title: string }) {
  return (
    <Reasons label={t`Why`} title={title}>
      <p className="font-semibold">{d.sentence}</p>
      <p className="mt-2 text-ink-2">
        {t`Row ${d.decision.row} of the table · usual first steps ${d.decision.baseline} · next look ${dayMonth(d.decision.nextLook)}`}
      </p>
      {d.reasons.map((r) => (
        <div key={r.text} className="mt-2 border-t border-rule pt-2">
          <p>{r.text}</p>
          <Source text={r.source} />
        </div>
      ))}
      {d.forUp.length > 0 && (
        <div className="mt-2 border-t border-rule pt-2">
          <p className="font-semibold">{t`Needed for a step up`}</p>
          <ul>
            {d.forUp.map((c) => (
              <li key={c.text} className={`flex ${c.met ? "text-ink-2" : ""}`}>
                <span className="w-16 shrink-0 font-semibold">
                  {c.idle ? "–" : c.met ? t`there` : t`missing`}
                </span>
                <span>{c.text}</span>
              </li>
            ))}
          </ul>
        </div>
      )}
      {d.life.length > 1 && (
        <div className="mt-2 border-t border-rule pt-2">
          <p className="font-semibold">{t`What happened`}</p>
          <ol>
            {d.life.map((it) => (
              <li key={it}>{it}</li>
            ))}
          </ol>
        </div>
      )}
    </Reasons>
  );
}
