import { t } from "@lingui/core/macro";
import { lazy, Suspense, useState } from "react";
import type { Schema } from "../../api/client";
import { dayMonth } from "../../parts/dates";
import { SideName } from "../../parts/marks";
import { type Ghost, NotchRail } from "../../parts/rail";
import { Reasons, Source } from "../../parts/reasons";
import { DecisionLine, folded } from "./decision";

const EditPrescription = lazy(async () => ({ default: (await import("./edit")).EditPrescription }));

type Prescription = Schema["PrescriptionView"];

/** One ladder: its rail, where both pegs stand, and what was decided last. */
export function LadderRow({ p, b }: { p: Prescription; b?: Schema["Block"] }) {
  const [editing, setEditing] = useState(false);
  const at = (side: "left" | "right") => p.pegs.find((k) => k.side === side)?.notch ?? 1;
  const ghosts: Ghost[] = p.latest.flatMap((d): Ghost[] => {
    if (d.state === "proposed") return [{ side: d.side, at: d.decision.to, kind: "to" }];
    if (d.state === "applied" && d.decision.verdict === "back")
      return [{ side: d.side, at: d.decision.from, kind: "from" }];
    if (d.state === "accepted" && d.decision.verdict === "up")
      return [{ side: d.side, at: d.decision.from, kind: "from" }];
    return [];
  });
  return (
    <article
      aria-label={p.name}
      className="grid gap-x-5 gap-y-1 border-b border-rule py-3 md:grid-cols-[12.5rem_minmax(0,27rem)_minmax(0,1fr)]"
    >
      <div>
        <h3>{p.name}</h3>
        {p.together ? (
          <p className="text-[14px]">
            <span className="text-ink-2">{t`both sides, notch ${at("left")}`}</span>
            <br />
            {p.notches[at("left") - 1]?.words}
          </p>
        ) : (
          (at("left") === at("right") ? (["both"] as const) : (["left", "right"] as const)).map((s) => (
            <p key={s} className="text-[14px] leading-snug">
              <SideName side={s} />{" "}
              <span className="text-ink-2">{t`at ${at(s === "both" ? "left" : s)}`}</span>
              <br />
              {p.notches[at(s === "both" ? "left" : s) - 1]?.words}
            </p>
          ))
        )}
        {p.own && <p className="text-[14px]">{t`the coach's own dose: ${p.own.sets} sets`}</p>}
        {p.plan && p.plan.fromWeek > 1 && (
          <p className="text-[14px] text-ink-2">{t`from week ${p.plan.fromWeek}`}</p>
        )}
        <p className="flex flex-wrap gap-x-2">
          <Start p={p} />
          {b && !b.ended && (
            <button
              type="button"
              className="btn-quiet"
              aria-expanded={editing}
              aria-label={t`edit: ${p.name}`}
              onClick={() => setEditing(!editing)}
            >
              {t`Edit`}
            </button>
          )}
        </p>
      </div>
      <div className="min-w-0">
        <NotchRail name={p.name} notches={p.notches} pegs={p.pegs} together={p.together} ghosts={ghosts} />
        {b && p.plan && <Expected p={p} b={b} />}
      </div>
      <div className="grid content-start gap-2">
        {p.latest.length === 0 && <p className="text-[14px] text-ink-2">{t`No session yet.`}</p>}
        {folded(p.latest).map((ds) => (
          <DecisionLine key={ds[0].id} ds={ds} p={p} short />
        ))}
      </div>
      {b && editing && (
        <div className="md:col-span-3">
          <Suspense fallback={null}>
            <EditPrescription b={b} p={p} done={() => setEditing(false)} />
          </Suspense>
        </div>
      )}
    </article>
  );
}

/** Where the plan expected this ladder to be by the end. */
function Expected({ p, b }: { p: Prescription; b: Schema["Block"] }) {
  const last = p.plan?.path[p.plan.path.length - 1];
  if (!last) return null;
  return (
    <p className="text-[13px] text-ink-2">
      {t`by ${dayMonth(b.endOn)} likely notch ${last.likely}${last.late !== last.earliest ? t`, between ${last.late} and ${last.earliest}` : ""}${p.plan?.stops ? t`; the next notch is closed by ${p.plan.stops}` : ""}`}
    </p>
  );
}

function Start({ p }: { p: Prescription }) {
  return (
    <Reasons label={t`Why this start`} title={t`${p.name}: starts at notch ${p.startNotch}`}>
      <p className="font-semibold">{p.notches[p.startNotch - 1]?.words}</p>
      <ul className="my-2 list-disc pl-5">
        {p.startReasons.map((r) => (
          <li key={r.text}>{r.text}</li>
        ))}
      </ul>
      {p.startReasons[0] && <Source text={p.startReasons[0].source} />}
      {p.plan && (
        <div className="mt-2 border-t border-rule pt-2">
          <p>{t`Works on ${p.plan.for.join(", ")}.`}</p>
          <ul className="list-disc pl-5">
            {[...p.plan.why, ...p.plan.blocked, ...p.plan.notes].map((x) => (
              <li key={x}>{x}</li>
            ))}
            {p.plan.stops && <li>{t`The next notch is closed by: ${p.plan.stops}`}</li>}
          </ul>
        </div>
      )}
    </Reasons>
  );
}
