import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, need, Problem, type Schema } from "../../api/client";
import { dayMonth, plusDays } from "../../parts/dates";
import { Field } from "../../parts/field";
import { SaveState } from "../../parts/states";

type Screening = Schema["Screening"];

/** What a flag asks for, at the top of everything, with the clearance that re-opens it. */
export function FlagBanner({ s }: { s: Screening }) {
  const [open, setOpen] = useState("");
  const standing = s.flags.filter((f) => !f.cleared);
  const cleared = s.clearances.filter((c) => c.runs);
  if (standing.length === 0 && cleared.length === 0) return null;
  const emergency = standing.some((f) => f.level === "emergency");
  return (
    <div className="mb-4">
      {standing.length > 0 && (
        <div
          role="alert"
          className={`border-l-8 p-4 ${emergency ? "border-clay bg-clay text-chalk" : "border-clay bg-clay-wash"}`}
        >
          <h2>{emergency ? "Stop. Care is needed now." : "A clinician should look"}</h2>
          {emergency && (
            <p>
              No test, no plan, no running until a clinician has looked. In doubt call the local emergency
              number.
            </p>
          )}
          <ul className="mt-1">
            {standing.map((f) => (
              <li key={`${f.flag}${f.level}${f.side}`} className="flex flex-wrap items-baseline gap-x-3">
                <span>
                  <b>{f.flag}</b>
                  {f.side ? `, ${f.side}` : ""}: {f.text}
                </span>
                {f.level !== "note" && (
                  <button
                    type="button"
                    className="underline underline-offset-4"
                    onClick={() => setOpen(open === f.flag ? "" : f.flag)}
                  >
                    note a clearance
                  </button>
                )}
              </li>
            ))}
          </ul>
          <Link className="btn mt-3 text-ink" to={`/screenings/${s.id}/refer`}>
            Sheet for the clinician
          </Link>
        </div>
      )}
      {open && <ClearanceForm s={s} flag={open} done={() => setOpen("")} />}
      {cleared.map((c) => (
        <p key={`${c.flag}${c.on}`} className="mt-2 border-l-4 border-ink bg-paper p-2 text-[14px]">
          <b>{c.flag}</b> cleared by a {c.role} on {dayMonth(c.on)}: {c.allowed}. Until {dayMonth(c.until)}
          {c.soon && <b className="text-clay"> ▲ ends within seven days</b>}
        </p>
      ))}
    </div>
  );
}

function ClearanceForm({ s, flag, done }: { s: Screening; flag: string; done: () => void }) {
  const qc = useQueryClient();
  const [v, set] = useState({ role: "", allowed: "", until: plusDays(s.on, 42) });
  const save = useMutation({
    mutationFn: () =>
      need(
        api.POST("/api/runners/{id}/clearances", {
          params: { path: { id: s.runnerId } },
          body: { flag, ...v },
        }),
      ),
    onSuccess: () => {
      void qc.invalidateQueries();
      done();
    },
  });
  const bad = save.error instanceof Problem ? save.error.fields : {};
  return (
    <form
      className="mt-2 grid gap-3 border-l-4 border-ink bg-paper p-4 md:grid-cols-[12rem_1fr_11rem_auto] md:items-end"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate();
      }}
    >
      <Field
        label={`${flag}: cleared by a`}
        placeholder="physiotherapist"
        value={v.role}
        error={bad.role}
        onChange={(e) => set({ ...v, role: e.target.value })}
      />
      <Field
        label="What is allowed"
        value={v.allowed}
        error={bad.allowed}
        onChange={(e) => set({ ...v, allowed: e.target.value })}
      />
      <Field
        label="Until the end of"
        type="date"
        value={v.until}
        error={bad.until}
        onChange={(e) => set({ ...v, until: e.target.value })}
      />
      <div className="flex gap-2">
        <button
          type="submit"
          className="btn btn-main"
          disabled={save.isPending || !v.role.trim() || !v.allowed.trim() || !v.until}
        >
          Note it
        </button>
        <button type="button" className="btn" onClick={done}>
          Cancel
        </button>
      </div>
      <SaveState error={save.error} saving={false} />
    </form>
  );
}
