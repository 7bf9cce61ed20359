import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { type ReactNode, useEffect, useState } from "react";
import { useKeys } from "../../parts/keys";
import { CrossingCounter } from "./crossing";
import { Metronome, startBeat } from "./metronome";
import { beep, type Fill, once, Tap, type Test, Timer } from "./timer";

/** A 15-second window: count the steps with t or by hand, then type the count. */
function Count15({ fill }: { fill: Fill }) {
  const [left, setLeft] = useState<number | null>(null);
  const [n, setN] = useState(0);
  const [typed, setTyped] = useState("");
  useEffect(() => {
    if (left === null || left <= 0) return;
    const id = setTimeout(() => {
      setLeft(left - 1);
      if (left === 1) beep(true);
    }, 1000);
    return () => clearTimeout(id);
  }, [left]);
  const start = () => {
    setN(0);
    setTyped("");
    setLeft(15);
    beep(false);
  };
  useKeys([
    { show: "Space", does: t`start the count`, on: { Space: once(start) } },
    { show: "t", does: t`a step`, on: { t: once(() => left !== null && left > 0 && setN((x) => x + 1)) } },
  ]);
  const steps = typed ? Number(typed) : n;
  return (
    <>
      <button type="button" className="btn" onClick={start}>
        {left === null ? t`Start 15 s` : left > 0 ? t`${left} s left` : t`Again`}{" "}
        <kbd className="key">{t`Space`}</kbd>
      </button>
      <button type="button" className="btn" onClick={() => setN((x) => x + 1)} disabled={!left}>
        <Trans>
          Step {n} <kbd className="key">t</kbd>
        </Trans>
      </button>
      <label>
        {t`or steps counted `}
        <input
          className="field inline-block w-16"
          inputMode="numeric"
          value={typed}
          onChange={(e) => setTyped(e.target.value.replace(/\D/g, ""))}
        />
      </label>
      <button
        type="button"
        className="btn btn-main"
        disabled={!(steps > 0) || (left !== null && left > 0)}
        onClick={() => {
          fill("both", { text: String(steps * 4), resolution: 4 });
          setLeft(null);
          setN(0);
          setTyped("");
        }}
      >
        {t`Take ${steps > 0 ? t`${steps * 4} spm` : ""}`}
      </button>
    </>
  );
}

const names: Record<string, string> = {
  stopwatch: t`Stopwatch`,
  hold: t`Hold timer`,
  count15: t`Count 15 s`,
  tap: t`Tap`,
  metronome: t`Metronome`,
  crossing: t`Count steps`,
};

/** The capture aids of a test; one is open at a time. */
export function Aids({
  test,
  open,
  set,
  fill,
}: {
  test: Test;
  open: string;
  set: (aid: string) => void;
  fill: Fill;
}): ReactNode {
  const list = test.aids.filter((a) => names[a]);
  if (list.length === 0) return null;
  const now = open.startsWith(`${test.id}/`) ? open.slice(test.id.length + 1) : "";
  return (
    <>
      <p className="flex flex-wrap justify-center gap-x-2">
        {list.map((a) => (
          <button
            key={a}
            type="button"
            className="btn-quiet text-[13px]"
            aria-expanded={now === a}
            aria-label={`${names[a]}: ${test.name}`}
            onClick={() => set(now === a ? "" : `${test.id}/${a}`)}
          >
            {names[a]}
          </button>
        ))}
      </p>
      {now && (
        <fieldset className="panel fixed inset-x-2 bottom-2 z-30 flex flex-wrap items-center justify-center gap-x-4 gap-y-2 p-3 text-left md:inset-x-10">
          <legend className="sr-only">{`${names[now]}, ${test.name}`}</legend>
          <b className="display">{test.name}</b>
          {now === "stopwatch" && <Timer test={test} fill={fill} hold={false} />}
          {now === "hold" && <Timer test={test} fill={fill} hold />}
          {now === "count15" && <Count15 fill={fill} />}
          {now === "tap" && <Tap fill={fill} />}
          {now === "metronome" && <Metronome start={startBeat[test.id] ?? 60} />}
          {now === "crossing" && <CrossingCounter test={test} fill={fill} />}
          <button type="button" className="btn-quiet" onClick={() => set("")}>
            {t`Close`}
          </button>
        </fieldset>
      )}
    </>
  );
}
