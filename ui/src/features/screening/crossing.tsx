import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";
import { useKeys } from "../../parts/keys";
import { type Fill, once, other, Sides, type Test } from "./timer";
import type { Place } from "./trials";

/** Two keys: a step beside the line, a step that touches or crosses it. */
export function CrossingCounter({ test, fill }: { test: Test; fill: Fill }) {
  const [side, setSide] = useState<Place>("left");
  const [beside, setBeside] = useState(0);
  const [over, setOver] = useState(0);
  useKeys([
    { show: "j", does: t`a step beside the line`, on: { j: once(() => setBeside((x) => x + 1)) } },
    { show: "k", does: t`a step that crosses it`, on: { k: once(() => setOver((x) => x + 1)) } },
  ]);
  const of = beside + over;
  return (
    <>
      <Sides test={test} side={side} set={setSide} />
      <button type="button" className="btn" onClick={() => setBeside(beside + 1)}>
        <Trans>
          Beside {beside} <kbd className="key">j</kbd>
        </Trans>
      </button>
      <button type="button" className="btn" onClick={() => setOver(over + 1)}>
        <Trans>
          Crosses {over} <kbd className="key">k</kbd>
        </Trans>
      </button>
      <output>{of < 40 ? t`${40 - of} more steps` : t`${of} steps, enough`}</output>
      <button
        type="button"
        className="btn btn-main"
        disabled={of === 0}
        onClick={() => {
          fill(side, { text: ((100 * over) / of).toFixed(1), count: over, of });
          setBeside(0);
          setOver(0);
          setSide(other(side));
        }}
      >
        {t`Take`}
      </button>
    </>
  );
}
