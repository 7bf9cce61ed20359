import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, need, type Schema } from "../../api/client";
import { Field } from "../../parts/field";
import { SaveState } from "../../parts/states";

/** A severe reading was changed: its flag asks once more whether it was so. */
export function Slip({
  runner,
  on,
  s,
  done,
}: {
  runner: string;
  on: string;
  s: Schema["SlipView"];
  done: () => void;
}) {
  const [reason, setReason] = useState("");
  const put = useMutation({
    mutationFn: () =>
      need(
        api.POST("/api/runners/{id}/days/{on}/slip", {
          params: { path: { id: runner, on } },
          body: { key: s.key, reason },
        }),
      ),
    onSuccess: done,
  });
  return (
    <form
      aria-label="A changed reading"
      className="mb-4 grid gap-2 border-l-4 border-clay bg-paper p-4"
      onSubmit={(e) => {
        e.preventDefault();
        put.mutate();
      }}
    >
      <p className="font-semibold">{s.text}</p>
      <p className="text-[14px] text-ink-2">
        If it was, leave this: the flag stands until a clinician clears it. If it was typed wrong, say how,
        and the flag ends today. Both readings stay in the journal.
      </p>
      <div className="flex flex-wrap items-end gap-3">
        <Field
          label="How it came about"
          className="min-w-72 flex-1"
          value={reason}
          onChange={(e) => setReason(e.target.value)}
          maxLength={500}
        />
        <button type="submit" className="btn" disabled={put.isPending || !reason.trim()}>
          No, it was typed wrong
        </button>
      </div>
      <SaveState error={put.error} saving={put.isPending} />
    </form>
  );
}
