import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";
import { type Language, languages, take } from "../../language";
import { dayMonth } from "../../parts/dates";
import { canSpeak } from "./beat";
import { Chip } from "./kit";
import { leave, putLanguage } from "./link";
import { Reminders } from "./reminders";
import type { Ready } from "./usepocket";

const stateWords: Record<string, string> = {
  kept: t`kept here`,
  coach: t`with your coach`,
  refused: t`not taken`,
};
const kindWords: Record<string, string> = {
  morning: t`Morning`,
  session: t`Session`,
  run: t`Run`,
  file: t`A file of runs`,
  ramp: t`Barefoot work`,
  move: t`A session moved`,
  note: t`A note`,
};

/** Whom to call, cautions, what was told, phones, sounds, how to install and leave. */
export function More({ p }: { p: Ready }) {
  const { plan } = p;
  const [sure, setSure] = useState(false);
  const [cant, setCant] = useState("");
  const speak = async (l: Language) => {
    try {
      await putLanguage(l);
      take(l);
    } catch {
      setCant(t`That needs a connection. Try again when there is one.`);
    }
  };
  const waiting = p.kept.filter((k) => k.told === "kept").length;
  const safe = window.isSecureContext && "serviceWorker" in navigator;
  return (
    <div className="grid gap-6">
      <section>
        <h2>{t`Whom to call`}</h2>
        {plan.practice.emergencyNumber && (
          <p className="mt-1 text-[18px]">
            <Trans>
              In an emergency:{" "}
              <a
                className="font-bold underline"
                href={`tel:${plan.practice.emergencyNumber.replace(/[^\d+]/g, "")}`}
              >
                {plan.practice.emergencyNumber}
              </a>
            </Trans>
          </p>
        )}
        <p className="whitespace-pre-line">{plan.practice.emergencyText}</p>
        <p className="mt-1">
          {plan.practice.name}: {plan.practice.contact || t`ask your coach how to reach them`}
        </p>
      </section>
      <section>
        <h2>{t`Always`}</h2>
        <ul className="list-disc pl-5">
          {plan.cautions.map((c) => (
            <li key={c}>{c}</li>
          ))}
        </ul>
      </section>
      <section>
        <h2>{t`What you told`}</h2>
        {[...p.kept].reverse().map((k) => (
          <div key={k.id} className="border-b border-rule py-2">
            <p className="flex justify-between gap-3">
              <span>
                {kindWords[k.report.kind]}, {dayMonth(k.report.on)}
              </span>
              <b className={k.told === "refused" ? "text-clay" : k.told === "coach" ? "text-pine" : ""}>
                {stateWords[k.told]}
              </b>
            </p>
            {k.why && <p className="text-[15px]">{k.why}</p>}
            {k.told === "refused" && (
              <button type="button" className="btn mt-1 min-h-11" onClick={() => void p.drop(k.id)}>
                {t`Take it off this list`}
              </button>
            )}
          </div>
        ))}
        {p.kept.length === 0 && <p className="text-ink-2">{t`Nothing on this phone yet.`}</p>}
      </section>
      <section className="grid grid-cols-2 gap-2">
        <h2 className="col-span-2">{t`In a session`}</h2>
        <Chip on={p.settings.sound} onClick={() => p.set({ ...p.settings, sound: !p.settings.sound })}>
          {t`Sound ${p.settings.sound ? t`on` : t`off`}`}
        </Chip>
        <Chip on={p.settings.buzz} onClick={() => p.set({ ...p.settings, buzz: !p.settings.buzz })}>
          {t`Buzz ${p.settings.buzz ? t`on` : t`off`}`}
        </Chip>
        {canSpeak() && (
          <Chip on={!!p.settings.voice} onClick={() => p.set({ ...p.settings, voice: !p.settings.voice })}>
            {t`Spoken count ${p.settings.voice ? t`on` : t`off`}`}
          </Chip>
        )}
      </section>
      <section>
        <h2>{t`On the home screen`}</h2>
        {safe ? (
          <>
            <p>
              {t`In the browser's menu, three dots, take “Install” or “Add to home screen”. Where there are no dots: tap the square with the arrow, then “Add to home screen”.`}
            </p>
            <p className="mt-1">{t`It then opens by itself and works without a network.`}</p>
          </>
        ) : (
          <p>
            {t`This address is not reached by https. The page works with a network; installing it, working without one and sharing files are missing.`}
          </p>
        )}
      </section>
      <Reminders p={p} />
      <section>
        <h2>{t`Language and numbers`}</h2>
        <p>{t`A half may be typed as 6.5 or 6,5; the clock is the one of this phone.`}</p>
        <div className="mt-2 flex gap-2">
          {(Object.keys(languages) as Language[]).map((l) => (
            <Chip key={l} on={plan.language === l} onClick={() => void speak(l)}>
              <span lang={l}>{languages[l]}</span>
            </Chip>
          ))}
        </div>
        {cant && <p role="alert">{cant}</p>}
      </section>
      <section>
        <h2>{t`Your phones`}</h2>
        {plan.devices.map((d) => (
          <p key={d.id} className="flex items-center justify-between gap-3 border-b border-rule py-2">
            <span>
              {t`${d.name}${d.this ? t` (this one)` : ""}, since ${dayMonth(d.at.slice(0, 10))}`}
              {d.clockOff && <b className="block text-clay">▲ {d.clockOff}</b>}
            </span>
            {!d.this && (
              <button type="button" className="btn min-h-11" onClick={() => void leave(d.id).then(p.refresh)}>
                {t`Sign it out`}
              </button>
            )}
          </p>
        ))}
        {!sure ? (
          <button type="button" className="btn mt-3 min-h-12 w-full" onClick={() => setSure(true)}>
            {t`Sign this phone out`}
          </button>
        ) : (
          <div role="alert" className="mt-3 border-l-4 border-clay bg-paper p-3">
            <p>
              {t`The plan goes off this phone.${waiting > 0 ? t` ${waiting} of what you told was not sent yet and is lost.` : ""} What your coach has stays there.`}
            </p>
            <div className="mt-2 grid grid-cols-2 gap-2">
              <button type="button" className="btn min-h-12" onClick={() => void p.leave()}>
                {t`Sign it out`}
              </button>
              <button type="button" className="btn min-h-12" onClick={() => setSure(false)}>
                {t`Stay`}
              </button>
            </div>
          </div>
        )}
      </section>
    </div>
  );
}
