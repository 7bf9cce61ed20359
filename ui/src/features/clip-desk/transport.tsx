import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Choice } from "../../parts/field";
import type { Act, Desk } from "./model";
import type { There } from "./usedesk";

const steps = [
  [-10, "−10", t`−10, ten frames back`],
  [-1, "←", t`←, a frame back`],
  [1, "→", t`→, a frame on`],
  [10, "+10", t`+10, ten frames on`],
] as const;

/** Through the frames of a clip: by steps, or playing slowly. */
export function Transport({
  d: { frame, playing, speed },
  act,
  go,
  count,
  there,
  seconds,
}: {
  d: Desk;
  act: (a: Act) => void;
  go: (to: number) => void;
  count: number;
  there: There;
  seconds: number;
}) {
  const step = ([by, sign, label]: (typeof steps)[number]) => (
    <button key={by} type="button" className="btn min-h-8" aria-label={label} onClick={() => go(frame + by)}>
      {sign}
    </button>
  );
  return (
    <div className="mt-2 flex flex-wrap items-center gap-2">
      {steps.slice(0, 2).map(step)}
      <button type="button" className="btn min-h-8 w-20" onClick={() => act({ do: "play", on: !playing })}>
        {playing ? t`Stop` : t`Play`}
      </button>
      {steps.slice(2).map(step)}
      <Choice
        label={t`Speed`}
        hideLabel
        compact
        options={[
          { value: 0.25, label: "¼" },
          { value: 0.5, label: "½" },
          { value: 1, label: "1×" },
        ]}
        value={speed}
        onChange={(to) => act({ do: "speed", to })}
      />
      <p className="ml-auto" role="status">
        <Trans>
          frame <b>{frame + 1}</b> of {count}
          <span className="text-ink-2"> · {seconds.toFixed(3)} s</span>
        </Trans>
        {there !== "here" && !playing && (
          <span className="text-clay">
            {" · "}
            {there === "on its way" ? t`on its way` : t`▲ this browser shows frame ${there + 1}`}
          </span>
        )}
      </p>
    </div>
  );
}
