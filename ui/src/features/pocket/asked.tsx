import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";
import { readNumber } from "../../parts/numbers";
import { sideName } from "../../parts/sidename";
import { type Effort, resultOf } from "./course";
import type { Progress, Result, Sides } from "./keep";
import { Chip, Main, Page, Scale } from "./kit";
import type { Ready } from "./usepocket";

/** The walk a session is set against, before it begins. */
export function Walk({
  title,
  back,
  done,
}: {
  title: string;
  back: () => void;
  done: (walked: boolean) => void;
}) {
  return (
    <Page
      title={title}
      back={back}
      foot={
        <>
          <Main onClick={() => done(true)}>{t`Walked, I remember it`}</Main>
          <button type="button" className="btn mt-2 min-h-12 w-full" onClick={() => done(false)}>
            {t`Not this time`}
          </button>
        </>
      }
    >
      <h2 className="text-[26px]">{t`First, a short walk`}</h2>
      <p className="mt-3 text-[18px]">
        {t`Ten steps on your heels, then ten on the balls of your feet. Feel how stiff or sore they are.`}
      </p>
      <p className="mt-3 text-ink-2">{t`You walk the same steps after the session and say what changed.`}</p>
      <p className="mt-3">{t`If a step hurts more than it did this morning, stop walking and leave it out.`}</p>
    </Page>
  );
}

/** What a routine measures before it begins. */
export function Before({
  title,
  what,
  back,
  done,
}: {
  title: string;
  what: string;
  back: () => void;
  done: (v: Sides) => void;
}) {
  const [v, set] = useState<Sides>({});
  return (
    <Page
      title={title}
      back={back}
      foot={<Main onClick={() => done(v)}>{Object.keys(v).length > 0 ? t`Measured` : t`Not this time`}</Main>}
    >
      <h2 className="text-[26px]">{t`First, measure`}</h2>
      <Centimetres what={t`${what}, before`} value={v} set={set} />
      <p className="mt-3 text-ink-2">
        {t`You measure again at the end, after a quiet minute: what is left of it then is yours.`}
      </p>
    </Page>
  );
}

/** Centimetres of both sides. */
export function Centimetres({ what, value, set }: { what: string; value: Sides; set: (v: Sides) => void }) {
  const [text, setText] = useState({ left: `${value.left ?? ""}`, right: `${value.right ?? ""}` });
  return (
    <fieldset className="mt-4">
      <legend className="text-[18px] font-semibold">{what}</legend>
      <div className="mt-2 grid grid-cols-2 gap-3">
        {(["left", "right"] as const).map((side) => (
          <label key={side} className={side === "left" ? "text-lefty" : "text-righty"}>
            <Trans>
              <b>{sideName(side)}</b>, cm
            </Trans>
            <input
              className="field min-h-12 text-[20px]"
              inputMode="decimal"
              value={text[side]}
              onChange={(e) => {
                setText({ ...text, [side]: e.target.value });
                const n = readNumber(e.target.value, "cm", "9.5").value;
                const { [side]: _, ...rest } = value;
                set(n === undefined || n < 0 || n > 30 ? rest : { ...rest, [side]: n });
              }}
            />
          </label>
        ))}
      </div>
    </fieldset>
  );
}

/** What is asked of an exercise when its sets are over: how much was left, what crept in. */
export function After({
  p,
  e,
  progress,
  keep,
  done,
}: {
  p: Ready;
  e: Effort;
  progress: Progress;
  keep: (part: Partial<Result>) => void;
  done: () => void;
}) {
  const r = resultOf(progress, e);
  const text = p.plan.texts[e.step.exercise];
  const mistakes = r.mistakes ?? [];
  return (
    <div className="grid gap-5">
      {e.item.effort === "reserve" && (
        <div>
          <p className="mb-1.5 text-[18px] font-semibold">{t`How many more could you have done?`}</p>
          <Scale
            label={t`How many more`}
            from={0}
            to={5}
            value={r.reserve}
            onPick={(reserve) => keep({ reserve })}
            low={t`none`}
            high={t`5 or more`}
          />
        </div>
      )}
      {e.item.effort === "twenty" && (
        <div className="grid grid-cols-2 gap-2">
          <p className="col-span-2 text-[18px] font-semibold">{t`Sure you could hold a fifth longer?`}</p>
          <Chip on={r.sure === true} onClick={() => keep({ sure: true })}>
            {t`Yes`}
          </Chip>
          <Chip on={r.sure === false} onClick={() => keep({ sure: false })}>
            {t`No, or not sure`}
          </Chip>
        </div>
      )}
      {text && text.mistakes.length > 0 && (
        <div className="grid gap-2">
          <p className="text-[18px] font-semibold">{t`Did one of these creep in?`}</p>
          {text.mistakes.map((m) => (
            <Chip
              key={m}
              on={mistakes.includes(m)}
              onClick={() =>
                keep({ mistakes: mistakes.includes(m) ? mistakes.filter((x) => x !== m) : [...mistakes, m] })
              }
            >
              {m}
            </Chip>
          ))}
          <Chip on={r.mistakes !== undefined && mistakes.length === 0} onClick={() => keep({ mistakes: [] })}>
            {t`No, clean`}
          </Chip>
        </div>
      )}
      <Main onClick={done}>{t`Next`}</Main>
    </div>
  );
}
