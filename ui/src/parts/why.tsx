import { t } from "@lingui/core/macro";
import { useState } from "react";
import { Field } from "./field";

/** A reading that is changed or taken back needs a word why; it stands in the journal. */
export function Why({
  say,
  onSay,
  onLeave,
}: {
  say: string;
  onSay: (reason: string) => void;
  onLeave: () => void;
}) {
  const [reason, setReason] = useState("");
  return (
    <form
      aria-label={t`Why it is put right`}
      className="mt-3 border-l-4 border-ink bg-paper p-3"
      onSubmit={(e) => {
        e.preventDefault();
        if (reason.trim()) onSay(reason);
      }}
    >
      <p className="mb-2">{say[0]?.toUpperCase() + say.slice(1)}.</p>
      <div className="flex flex-wrap items-end gap-3">
        <Field
          label={t`Why`}
          className="w-full max-w-md"
          maxLength={300}
          value={reason}
          onChange={(e) => setReason(e.target.value)}
        />
        <button type="submit" className="btn btn-main" disabled={!reason.trim()}>
          {t`Put it right`}
        </button>
        <button type="button" className="btn" onClick={onLeave}>
          {t`Leave it`}
        </button>
      </div>
    </form>
  );
}
