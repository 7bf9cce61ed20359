import { useState } from "react";
import { api, need, type Schema } from "../api/client";
import { useBlockChange } from "../api/hooks";
import { dayMonth } from "../parts/dates";
import { Field } from "../parts/field";
import { DecisionMark, SideName, verdictHue } from "../parts/marks";
import { type Ghost, NotchRail } from "../parts/rail";
import { Reasons, Source } from "../parts/reasons";
import { SaveState } from "../parts/states";
import { EditPrescription } from "./edit";

type Prescription = Schema["PrescriptionView"];
type Decision = Schema["DecisionView"];

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
            <span className="text-ink-2">both sides, notch {at("left")}</span>
            <br />
            {p.notches[at("left") - 1]?.words}
          </p>
        ) : (
          (at("left") === at("right") ? (["both"] as const) : (["left", "right"] as const)).map((s) => (
            <p key={s} className="text-[14px] leading-snug">
              <SideName side={s} /> <span className="text-ink-2">at {at(s === "both" ? "left" : s)}</span>
              <br />
              {p.notches[at(s === "both" ? "left" : s) - 1]?.words}
            </p>
          ))
        )}
        {p.own && <p className="text-[14px]">the coach's own dose: {p.own.sets} sets</p>}
        {p.plan && p.plan.fromWeek > 1 && (
          <p className="text-[14px] text-ink-2">from week {p.plan.fromWeek}</p>
        )}
        <p className="flex flex-wrap gap-x-2">
          <Start p={p} />
          {b && !b.ended && (
            <button
              type="button"
              className="btn-quiet"
              aria-expanded={editing}
              aria-label={`edit: ${p.name}`}
              onClick={() => setEditing(!editing)}
            >
              edit
            </button>
          )}
        </p>
      </div>
      <div className="min-w-0">
        <NotchRail name={p.name} notches={p.notches} pegs={p.pegs} together={p.together} ghosts={ghosts} />
        {b && p.plan && <Expected p={p} b={b} />}
      </div>
      <div className="grid content-start gap-2">
        {p.latest.length === 0 && <p className="text-[14px] text-ink-2">No session yet.</p>}
        {folded(p.latest).map((ds) => (
          <DecisionLine key={ds[0].id} ds={ds} p={p} />
        ))}
      </div>
      {b && editing && (
        <div className="md:col-span-3">
          <EditPrescription b={b} p={p} done={() => setEditing(false)} />
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
      by {dayMonth(b.endOn)} likely notch {last.likely}
      {last.late !== last.earliest && `, between ${last.late} and ${last.earliest}`}
      {p.plan?.stops && "; closed above for now"}
    </p>
  );
}

function Start({ p }: { p: Prescription }) {
  return (
    <Reasons label="why this start" title={`${p.name}: starts at notch ${p.startNotch}`}>
      <p className="font-semibold">{p.notches[p.startNotch - 1]?.words}</p>
      <ul className="my-2 list-disc pl-5">
        {p.startReasons.map((r) => (
          <li key={r.text}>{r.text}</li>
        ))}
      </ul>
      {p.startReasons[0] && <Source text={p.startReasons[0].source} />}
      {p.plan && (
        <div className="mt-2 border-t border-rule pt-2">
          <p>Works on {p.plan.for.join(", ")}.</p>
          <ul className="list-disc pl-5">
            {[...p.plan.why, ...p.plan.blocked, ...p.plan.notes].map((x) => (
              <li key={x}>{x}</li>
            ))}
            {p.plan.stops && <li>Above stands closed: {p.plan.stops}</li>}
          </ul>
        </div>
      )}
    </Reasons>
  );
}

const stateWord: Record<Decision["state"], string> = {
  proposed: "yours to accept",
  applied: "applied",
  accepted: "accepted",
  overridden: "overridden",
  waiting: "waits for the next morning",
};

const verdictWord = (d: Decision) => (d.decision.resume ? "start again" : d.decision.verdict);

type Fold = [Decision, ...Decision[]];

/** Both sides as one where they say the same. */
function folded(latest: Decision[]): Fold[] {
  const sorted = [...latest].sort((a, b) => a.side.localeCompare(b.side));
  const [a, b] = sorted;
  if (
    a &&
    b &&
    a.state === b.state &&
    a.move === b.move &&
    a.because === b.because &&
    a.state !== "overridden"
  )
    return [[a, b]];
  return sorted.map((d) => [d]);
}

function DecisionLine({ ds, p }: { ds: Fold; p: Prescription }) {
  const [changing, setChanging] = useState(false);
  const d = ds[0];
  const side = ds.length > 1 ? "both" : d.side;
  const accept = useBlockChange(async () => {
    let block: Schema["Block"] | undefined;
    for (const x of ds)
      block = await need(
        api.POST("/api/decisions/{id}/accept", {
          params: { path: { id: x.id } },
          body: { version: x.version },
        }),
      );
    if (!block) throw new Error("nothing to accept");
    return block;
  });
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
        {d.because}
        {d.state === "overridden" && `; you chose notch ${d.answerNotch}: ${d.answerReason}`}
      </p>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        {open && (
          <button
            type="button"
            className="btn btn-main my-1 min-h-8 px-3"
            disabled={accept.isPending}
            onClick={() => accept.mutate(undefined)}
            aria-label={`Accept: ${p.name}, ${side}, ${d.move}`}
          >
            Accept
          </button>
        )}
        <DecisionWhy d={d} title={`${p.name}, ${side === "both" ? "both sides" : side}`} />
        {d.state !== "overridden" && !(d.decision.verdict === "stop" && d.decision.row === 1) && (
          <button
            type="button"
            className="btn-quiet"
            aria-expanded={changing}
            aria-label={`override: ${p.name}, ${side}`}
            onClick={() => setChanging(!changing)}
          >
            override
          </button>
        )}
      </div>
      <SaveState error={accept.error} saving={accept.isPending} />
      {changing && ds.map((x) => <Override key={x.id} d={x} p={p} done={() => setChanging(false)} />)}
    </div>
  );
}

export function DecisionWhy({ d, title }: { d: Decision; title: string }) {
  return (
    <Reasons label="why" title={title}>
      <p className="font-semibold">{d.sentence}</p>
      <p className="mt-2 text-ink-2">
        Row {d.decision.row} of the table · usual first steps {d.decision.baseline} · next look{" "}
        {dayMonth(d.decision.nextLook)}
      </p>
      {d.reasons.map((r) => (
        <div key={r.text} className="mt-2 border-t border-rule pt-2">
          <p>{r.text}</p>
          <Source text={r.source} />
        </div>
      ))}
      {d.forUp.length > 0 && (
        <div className="mt-2 border-t border-rule pt-2">
          <p className="font-semibold">What an up needs</p>
          <ul>
            {d.forUp.map((c) => (
              <li key={c.text} className={c.met ? "text-ink-2" : ""}>
                <span className="inline-block w-14 font-semibold">{c.met ? "there" : "missing"}</span>{" "}
                {c.text}
              </li>
            ))}
          </ul>
        </div>
      )}
    </Reasons>
  );
}

function Override({ d, p, done }: { d: Decision; p: Prescription; done: () => void }) {
  const peg = p.pegs.find((k) => d.side === "both" || k.side === d.side)?.notch ?? 1;
  const [notch, setNotch] = useState(peg);
  const [reason, setReason] = useState("");
  const save = useBlockChange(() =>
    need(
      api.POST("/api/decisions/{id}/override", {
        params: { path: { id: d.id } },
        body: { version: d.version, notch, reason },
      }),
    ),
  );
  return (
    <form
      className="mt-2 grid gap-2 border-l-4 border-ink bg-paper p-3"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate(undefined, { onSuccess: done });
      }}
    >
      <label>
        <span className="mb-1 block font-semibold">Stand on</span>
        <select className="field" value={notch} onChange={(e) => setNotch(Number(e.target.value))}>
          {p.notches.slice(0, Math.min(p.notches.length, d.decision.from + 1)).map((n, i) => (
            <option key={n.words} value={i + 1} disabled={!!n.locked && i + 1 > d.decision.from}>
              {i + 1}: {n.words}
              {n.locked ? ` (closed: ${n.locked})` : ""}
            </option>
          ))}
        </select>
      </label>
      {d.side !== "both" && <SideName side={d.side} />}
      <Field label="Why" value={reason} onChange={(e) => setReason(e.target.value)} maxLength={500} />
      <div className="flex gap-2">
        <button type="submit" className="btn min-h-8" disabled={save.isPending || !reason.trim()}>
          Override
        </button>
        <button type="button" className="btn min-h-8" onClick={done}>
          Cancel
        </button>
      </div>
      <SaveState error={save.error} saving={save.isPending} />
    </form>
  );
}
