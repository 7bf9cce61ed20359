import { useState } from "react";
import type { Schema } from "../../api/client";
import { Choice, Field } from "../../parts/field";
import { Weekdays } from "../../parts/tick";
import { type Block, type Change, useChange } from "./change";
import { ChangeError, Outlook, useLook } from "./dayside";
import { useWishes } from "./hooks";

type Prescription = Schema["PrescriptionView"];
type What = "dose" | "days" | "extra-set" | "leave-out";
type Dose = Schema["CatalogueDose"];

const parts: [keyof Dose, string][] = [
  ["sets", "Sets"],
  ["reps", "Reps"],
  ["holdSeconds", "Hold, s"],
  ["minutes", "Minutes"],
  ["contacts", "Contacts"],
  ["paces", "Paces"],
  ["metres", "Metres"],
  ["bodyPercent", "Load, % body"],
];

/** The edit of one prescription, with what it would do before it is saved. */
export function EditPrescription({ b, p, done }: { b: Block; p: Prescription; done: () => void }) {
  const [what, setWhat] = useState<What>("dose");
  const notch = p.pegs.find((x) => x.side === "left")?.notch ?? 1;
  const [dose, setDose] = useState<Dose>(p.own ?? p.dose);
  const planned = [
    ...new Set(
      b.weeks
        .slice(0, 2)
        .flatMap((w) => w.days)
        .flatMap((d, i) =>
          d.sessions.some((s) => s.doses.some((x) => x.prescriptionId === p.id)) ? [i % 7] : [],
        ),
    ),
  ].sort();
  const [days, setDays] = useState<number[]>(planned);
  const [side, setSide] = useState(p.extraSetSide ?? "");
  const [reason, setReason] = useState("");
  const change: Change =
    what === "dose"
      ? { kind: "dose", ladder: p.ladder, notch, dose }
      : what === "days"
        ? { kind: "days", ladder: p.ladder, days }
        : what === "extra-set"
          ? { kind: "extra-set", ladder: p.ladder, side }
          : { kind: "leave-out", ladder: p.ladder, reason: "?" };
  const save = useChange(b);
  const idle = save.isIdle || save.isError;
  const { look, error } = useLook(b, idle ? change : null);
  const harder = look?.consequences.some((c) => c.includes("a reason is needed")) ?? false;
  const needs = what === "leave-out" || (look?.broken.length ?? 0) > 0 || harder;
  const send = (c: Change) => save.mutate({ ...c, reason: needs ? reason : undefined }, { onSuccess: done });
  return (
    <form
      aria-label={`Edit ${p.name}`}
      className="mt-2 grid gap-3 border-l-4 border-ink bg-paper p-4"
      onSubmit={(e) => {
        e.preventDefault();
        send(change);
      }}
    >
      <Choice
        label={`Edit ${p.name}`}
        compact
        options={[
          { value: "dose", label: "dose" },
          { value: "days", label: "days" },
          { value: "extra-set", label: "sides" },
          { value: "leave-out", label: "leave out" },
        ]}
        value={what}
        onChange={(v) => setWhat(v as What)}
      />
      {what === "dose" && (
        <div className="flex flex-wrap items-end gap-3">
          {parts
            .filter(([k]) => k === "sets" || dose[k] !== undefined || (k === "bodyPercent" && dose.reps))
            .map(([k, name]) => (
              <Field
                key={k}
                label={name}
                className="w-24"
                type="number"
                min={0}
                value={String(dose[k] ?? "")}
                onChange={(e) =>
                  setDose({ ...dose, [k]: e.target.value === "" ? undefined : Number(e.target.value) })
                }
              />
            ))}
          <p className="pb-2 text-[14px] text-ink-2">holds at notch {notch}, until the peg moves</p>
          {p.own && (
            <button
              type="button"
              className="btn-quiet pb-2"
              onClick={() => send({ kind: "dose", ladder: p.ladder, notch })}
            >
              back to the notch's dose
            </button>
          )}
        </div>
      )}
      {what === "days" && <Weekdays label="Stands on" days={days} onChange={setDays} />}
      {what === "extra-set" && (
        <Choice
          label="One set more"
          options={[
            { value: "", label: "on neither" },
            { value: "left", label: "left" },
            { value: "right", label: "right" },
          ]}
          value={side}
          onChange={(v) => setSide(v as typeof side)}
        />
      )}
      <Outlook look={look} error={error} />
      {needs && (
        <Field
          label={what === "leave-out" ? "Why it is left out" : "Do it all the same, because"}
          value={reason}
          maxLength={300}
          onChange={(e) => setReason(e.target.value)}
        />
      )}
      <div className="flex gap-3">
        <button
          type="submit"
          className="btn btn-main"
          disabled={save.isPending || !look || (needs && !reason.trim())}
        >
          {what === "leave-out" ? "Leave it out" : needs ? "Insist" : "Save"}
        </button>
        <button type="button" className="btn" onClick={done}>
          Cancel
        </button>
      </div>
      <ChangeError error={save.error} saving={save.isPending} />
    </form>
  );
}

/** Puts a ladder from the shelf into the block, re-fitted to this runner. */
export function AddLadder({ b }: { b: Block }) {
  const [open, setOpen] = useState(false);
  if (b.ended) return null;
  if (!open)
    return (
      <button type="button" className="btn mt-3" onClick={() => setOpen(true)}>
        Add a ladder
      </button>
    );
  return <AddForm b={b} done={() => setOpen(false)} />;
}

function AddForm({ b, done }: { b: Block; done: () => void }) {
  const w = useWishes(b.runnerId);
  const [ladder, setLadder] = useState("");
  const [days, setDays] = useState<number[]>(b.main.map((m) => m.day));
  const [reason, setReason] = useState("");
  const change: Change | null = ladder && days.length ? { kind: "add", ladder, days } : null;
  const save = useChange(b);
  const { look, error } = useLook(b, save.isIdle || save.isError ? change : null);
  const needs = (look?.broken.length ?? 0) > 0;
  const there = new Set(b.prescriptions.filter((p) => !p.leftOut).map((p) => p.ladder));
  return (
    <form
      aria-label="Add a ladder"
      className="mt-3 grid gap-3 border-l-4 border-ink bg-paper p-4"
      onSubmit={(e) => {
        e.preventDefault();
        if (change) save.mutate({ ...change, reason: needs ? reason : undefined }, { onSuccess: done });
      }}
    >
      <label>
        <span className="mb-1 block font-semibold">Ladder</span>
        <select className="field max-w-md" value={ladder} onChange={(e) => setLadder(e.target.value)}>
          <option value="">choose</option>
          {w.data?.ladders
            .filter((l) => !there.has(l.id))
            .map((l) => (
              <option key={l.id} value={l.id}>
                {l.name}
              </option>
            ))}
        </select>
      </label>
      <Weekdays label="On" days={days} onChange={setDays} />
      {change && <Outlook look={look} error={error} />}
      {needs && (
        <Field
          label="Do it all the same, because"
          value={reason}
          onChange={(e) => setReason(e.target.value)}
        />
      )}
      <div className="flex gap-3">
        <button
          type="submit"
          className="btn btn-main"
          disabled={!look || save.isPending || (needs && !reason.trim())}
        >
          {needs ? "Insist" : "Add it"}
        </button>
        <button type="button" className="btn" onClick={done}>
          Cancel
        </button>
      </div>
      <ChangeError error={save.error} saving={save.isPending} />
    </form>
  );
}
