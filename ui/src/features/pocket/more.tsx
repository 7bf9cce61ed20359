import { useState } from "react";
import { dayMonth } from "../../parts/dates";
import { canSpeak } from "./beat";
import { Chip } from "./kit";
import { leave } from "./link";
import { Reminders } from "./reminders";
import type { Ready } from "./usepocket";

const stateWords: Record<string, string> = {
  kept: "kept here",
  coach: "with your coach",
  refused: "not taken",
};
const kindWords: Record<string, string> = {
  morning: "Morning",
  session: "Session",
  run: "Run",
  file: "A file of runs",
  ramp: "Barefoot work",
  move: "A session moved",
  note: "A note",
};

/** Whom to call, cautions, what was told, phones, sounds, how to install and leave. */
export function More({ p }: { p: Ready }) {
  const { plan } = p;
  const [sure, setSure] = useState(false);
  const waiting = p.kept.filter((k) => k.told === "kept").length;
  const safe = window.isSecureContext && "serviceWorker" in navigator;
  return (
    <div className="grid gap-6">
      <section>
        <h2>Whom to call</h2>
        {plan.practice.emergencyNumber && (
          <p className="mt-1 text-[18px]">
            In an emergency:{" "}
            <a
              className="font-bold underline"
              href={`tel:${plan.practice.emergencyNumber.replace(/[^\d+]/g, "")}`}
            >
              {plan.practice.emergencyNumber}
            </a>
          </p>
        )}
        <p className="whitespace-pre-line">{plan.practice.emergencyText}</p>
        <p className="mt-1">
          {plan.practice.name}: {plan.practice.contact || "ask your coach how to reach them"}
        </p>
      </section>
      <section>
        <h2>Always</h2>
        <ul className="list-disc pl-5">
          {plan.cautions.map((c) => (
            <li key={c}>{c}</li>
          ))}
        </ul>
      </section>
      <section>
        <h2>What you told</h2>
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
                Take it off this list
              </button>
            )}
          </div>
        ))}
        {p.kept.length === 0 && <p className="text-ink-2">Nothing on this phone yet.</p>}
      </section>
      <section className="grid grid-cols-2 gap-2">
        <h2 className="col-span-2">In a session</h2>
        <Chip on={p.settings.sound} onClick={() => p.set({ ...p.settings, sound: !p.settings.sound })}>
          Sound {p.settings.sound ? "on" : "off"}
        </Chip>
        <Chip on={p.settings.buzz} onClick={() => p.set({ ...p.settings, buzz: !p.settings.buzz })}>
          Buzz {p.settings.buzz ? "on" : "off"}
        </Chip>
        {canSpeak() && (
          <Chip on={!!p.settings.voice} onClick={() => p.set({ ...p.settings, voice: !p.settings.voice })}>
            Spoken count {p.settings.voice ? "on" : "off"}
          </Chip>
        )}
      </section>
      <section>
        <h2>On the home screen</h2>
        {safe ? (
          <>
            <p>
              In the browser's menu, three dots, take “Install” or “Add to home screen”. Where there are no
              dots: tap the square with the arrow, then “Add to home screen”.
            </p>
            <p className="mt-1">It then opens by itself and works without a network.</p>
          </>
        ) : (
          <p>
            This address is not reached by https. The page works with a network; installing it, working
            without one and sharing files are missing.
          </p>
        )}
      </section>
      <Reminders p={p} />
      <section>
        <h2>Language and numbers</h2>
        <p>
          Notchback speaks English. A half may be typed as 6.5 or 6,5; the clock is the one of this phone.
        </p>
      </section>
      <section>
        <h2>Your phones</h2>
        {plan.devices.map((d) => (
          <p key={d.id} className="flex items-center justify-between gap-3 border-b border-rule py-2">
            <span>
              {d.name}
              {d.this ? " (this one)" : ""}, since {dayMonth(d.at.slice(0, 10))}
              {d.clockOff && <b className="block text-clay">▲ {d.clockOff}</b>}
            </span>
            {!d.this && (
              <button type="button" className="btn min-h-11" onClick={() => void leave(d.id).then(p.refresh)}>
                Sign it out
              </button>
            )}
          </p>
        ))}
        {!sure ? (
          <button type="button" className="btn mt-3 min-h-12 w-full" onClick={() => setSure(true)}>
            Sign this phone out
          </button>
        ) : (
          <div role="alert" className="mt-3 border-l-4 border-clay bg-paper p-3">
            <p>
              The plan goes off this phone.
              {waiting > 0 && ` ${waiting} of what you told was not sent yet and is lost.`} What your coach
              has stays there.
            </p>
            <div className="mt-2 grid grid-cols-2 gap-2">
              <button type="button" className="btn min-h-12" onClick={() => void p.leave()}>
                Sign it out
              </button>
              <button type="button" className="btn min-h-12" onClick={() => setSure(false)}>
                Stay
              </button>
            </div>
          </div>
        )}
      </section>
    </div>
  );
}
