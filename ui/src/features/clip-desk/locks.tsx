import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Choice } from "../../parts/field";
import type { Foot, Kind } from "./screens";

/** The event both clips are locked to, the step, and how far from it both stand. */
export function Locks({
  foot,
  setFoot,
  kind,
  setKind,
  n,
  of,
  setStep,
  offset,
  setOffset,
  by,
}: {
  foot: Foot;
  setFoot: (f: Foot) => void;
  kind: Kind;
  setKind: (k: Kind) => void;
  n: number;
  of: number;
  setStep: (n: number) => void;
  /** Milliseconds of real time after the event, and one frame of it. */
  offset: number;
  setOffset: (ms: number) => void;
  by: number;
}) {
  return (
    <div className="mb-3 flex flex-wrap items-end gap-x-6 gap-y-2">
      <Choice
        label={t`Foot`}
        compact
        options={[
          { value: "left", label: t`left` },
          { value: "right", label: t`right` },
        ]}
        value={foot}
        onChange={setFoot}
      />
      <Choice
        label={t`Locked to`}
        compact
        options={[
          { value: "contact", label: t`contact` },
          { value: "toe-off", label: t`toe-off` },
        ]}
        value={kind}
        onChange={setKind}
      />
      <div className="flex items-center gap-2">
        <button
          type="button"
          className="btn min-h-8"
          disabled={n === 0}
          onClick={() => setStep(n - 1)}
          aria-label={t`the step before`}
        >
          ‹
        </button>
        <span>
          <Trans>
            step <b>{of === 0 ? 0 : n + 1}</b> of {of}
          </Trans>
        </span>
        <button
          type="button"
          className="btn min-h-8"
          disabled={n + 1 >= of}
          onClick={() => setStep(n + 1)}
          aria-label={t`the next step`}
        >
          ›
        </button>
      </div>
      <div className="flex items-center gap-2">
        <button
          type="button"
          className="btn min-h-8"
          aria-label={t`both a frame back`}
          onClick={() => setOffset(offset - by)}
        >
          ←
        </button>
        <span role="status" className="w-32 text-center">
          {offset === 0 ? t`at ${kind}` : t`${offset > 0 ? "+" : "−"}${Math.abs(offset)} ms`}
        </span>
        <button
          type="button"
          className="btn min-h-8"
          aria-label={t`both a frame on`}
          onClick={() => setOffset(offset + by)}
        >
          →
        </button>
      </div>
    </div>
  );
}
