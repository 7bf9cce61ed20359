import { t } from "@lingui/core/macro";
import { useState } from "react";
import { newId } from "../../api/id";
import { sideName } from "../../parts/sidename";
import { Centimetres } from "./asked";
import { type Effort, type Felt, toldAs, walksAgain } from "./course";
import type { Progress } from "./keep";
import { Chip, Main, Page } from "./kit";
import { zone } from "./link";
import { emergency, type Now } from "./rules";
import type { Ready } from "./usepocket";

/** The last question, and the session goes to the coach. */
export function Finish({
  p,
  list,
  progress,
  routine,
  back,
}: {
  p: Ready;
  list: readonly Effort[];
  progress: Progress;
  routine?: Now["sitting"]["routine"];
  back: () => void;
}) {
  const [litmus, setLitmus] = useState<"better" | "same" | "worse">();
  const [felt, setFelt] = useState<Felt>();
  const stopped = p.local.stopped || emergency(p.plan, p.local);
  const report = toldAs(newId(), p.plan.block ?? "", progress, list, p.now, zone(), litmus, undefined, felt);
  const asks = routine
    ? (routine.compare === "walk" || routine.compare === "steps") && !stopped
    : walksAgain(progress, list, stopped);
  const send = async () => {
    if (report && !(await p.tell({ kind: "session", on: progress.on, session: report.session }))) return;
    await p.step(null);
    back();
  };
  return (
    <Page
      title={t`Done`}
      foot={
        <>
          <Main onClick={() => void send()}>{report ? t`Tell my coach` : t`Close, nothing was done`}</Main>
          <button type="button" className="btn mt-2 min-h-12 w-full" onClick={back}>
            {t`Not yet`}
          </button>
        </>
      }
    >
      <h2 className="text-[26px]">{t`That was it`}</h2>
      {routine?.compare === "cm" && progress.before && (
        <Centimetres
          what={t`${routine.compared ?? ""}, after`}
          value={progress.after ?? {}}
          set={(after) => void p.step({ ...progress, after })}
        />
      )}
      {routine?.felt && (
        <div className="mt-3 grid grid-cols-3 gap-2">
          <p className="col-span-3 text-[18px] font-semibold">{t`Where was it felt most?`}</p>
          {(["foot", "calf", "shin", "thigh", "seat"] as const).map((x) => (
            <Chip key={x} on={felt === x} onClick={() => setFelt(x)}>
              {x}
            </Chip>
          ))}
        </div>
      )}
      {routine?.late && <p className="mt-3 border-l-4 border-pine pl-2">{routine.late}</p>}
      {asks && (
        <div className="mt-3 grid grid-cols-3 gap-2">
          <p className="col-span-3 text-[18px] font-semibold">
            {routine?.compare === "steps"
              ? t`Ten steps: against before?`
              : t`The two walks again, ten steps on the heels, ten on the balls: against before?`}
          </p>
          {(["better", "same", "worse"] as const).map((x) => (
            <Chip key={x} on={litmus === x} onClick={() => setLitmus(x)}>
              {x}
            </Chip>
          ))}
        </div>
      )}
      <ul className="mt-5">
        {[...new Set(list.map((x) => x.key))].map((key) => {
          const e = list.find((x) => x.key === key);
          const r = progress.results[key];
          if (!e) return null;
          return (
            <li key={key} className="flex justify-between gap-3 border-t border-rule py-2">
              <span>
                {e.item.name}
                {e.side.side === "both" ? "" : `, ${sideName(e.side.side)}`}
              </span>
              <span className="text-ink-2">
                {r ? t`${r.sets} of ${r.of}${r.pain === undefined ? "" : t`, pain ${r.pain}`}` : t`not done`}
              </span>
            </li>
          );
        })}
      </ul>
    </Page>
  );
}
