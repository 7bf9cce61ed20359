import { t } from "@lingui/core/macro";
import { useState } from "react";
import { api, need } from "../../api/client";
import { useBlockChange } from "../../api/hooks";
import { Field } from "../../parts/field";
import { SideName } from "../../parts/marks";
import { SaveState } from "../../parts/states";
import type { Decision, Prescription } from "./decision";

export function Override({ d, p, done }: { d: Decision; p: Prescription; done: () => void }) {
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
        <span className="mb-1 block font-semibold">{t`Stand on`}</span>
        <select className="field" value={notch} onChange={(e) => setNotch(Number(e.target.value))}>
          {p.notches.slice(0, Math.min(p.notches.length, d.decision.from + 1)).map((n, i) => (
            <option key={n.words} value={i + 1} disabled={!!n.locked && i + 1 > d.decision.from}>
              {i + 1}: {n.words}
              {n.locked ? t` (closed: ${n.locked})` : ""}
            </option>
          ))}
        </select>
      </label>
      {d.side !== "both" && <SideName side={d.side} />}
      <Field label={t`Why`} value={reason} onChange={(e) => setReason(e.target.value)} maxLength={500} />
      <div className="flex gap-2">
        <button type="submit" className="btn min-h-8" disabled={save.isPending || !reason.trim()}>
          {t`Override`}
        </button>
        <button type="button" className="btn min-h-8" onClick={done}>
          {t`Cancel`}
        </button>
      </div>
      <SaveState error={save.error} saving={save.isPending} />
    </form>
  );
}
