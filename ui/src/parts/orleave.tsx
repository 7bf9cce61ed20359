import { t } from "@lingui/core/macro";
import type { ReactNode } from "react";
import { SaveState } from "./states";

/** The foot of a form that can be let be: do it, or leave it, and what went wrong. */
export function DoOrLeave({
  children,
  main,
  busy,
  error,
  leave,
  onDo,
}: {
  children: ReactNode;
  main?: boolean;
  busy: boolean;
  error: Error | null;
  leave: () => void;
  /** Where it is no form that is sent. */
  onDo?: () => void;
}) {
  return (
    <div className="flex flex-wrap items-center gap-3">
      <button
        type={onDo ? "button" : "submit"}
        className={main ? "btn btn-main" : "btn"}
        disabled={busy}
        onClick={onDo}
      >
        {children}
      </button>
      <button type="button" className="btn-quiet" onClick={leave}>
        {t`Leave it`}
      </button>
      <SaveState error={error} saving={false} />
    </div>
  );
}
