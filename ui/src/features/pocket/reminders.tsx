import { plural, t } from "@lingui/core/macro";
import { useState } from "react";
import { Chip } from "./kit";
import { endCalendars, newCalendar, putReminders } from "./link";
import type { Ready } from "./usepocket";

/** The plan in the phone's own calendar, which rings: of what, and at which address. */
export function Reminders({ p }: { p: Ready }) {
  const { kinds, live } = p.plan.reminders;
  const [path, setPath] = useState("");
  const [wrong, setWrong] = useState("");
  const [copied, setCopied] = useState(false);
  const address = path && new URL(path, location.href).href;
  const act = async (what: () => Promise<unknown>) => {
    setWrong("");
    try {
      await what();
      await p.refresh();
    } catch {
      setWrong(t`That needs a connection. Try again when there is one.`);
    }
  };
  const flip = (kind: string) =>
    act(() =>
      putReminders(kinds.filter((k) => (k.kind === kind ? !k.on : k.on)).map((k) => k.kind as string)),
    );
  return (
    <section>
      <h2>{t`Reminders`}</h2>
      <p>
        {t`This page can remind you only while it is open. Your phone's calendar rings by itself: give it the address below.`}
      </p>
      <div className="mt-2 grid gap-2">
        {kinds.map((k) => (
          <Chip key={k.kind} on={k.on} onClick={() => void flip(k.kind)}>
            {k.name} {k.on ? t`on` : t`off`}
            <span className="block font-normal">{k.words}</span>
          </Chip>
        ))}
      </div>
      {wrong && (
        <p role="alert" className="mt-2 text-clay">
          ▲ {wrong}
        </p>
      )}
      {address ? (
        <div className="mt-3 border-l-4 border-pine bg-paper p-3">
          <p className="break-all">{address}</p>
          <div className="mt-2 grid grid-cols-2 gap-2">
            <a className="btn min-h-12" href={address.replace(/^https?:/, "webcal:")}>
              {t`Open calendar`}
            </a>
            <button
              type="button"
              className="btn min-h-12"
              onClick={() =>
                void navigator.clipboard?.writeText(address).then(
                  () => setCopied(true),
                  () => setWrong(t`Copying is not allowed here: press long on the address.`),
                )
              }
            >
              {copied ? t`Copied` : t`Copy`}
            </button>
          </div>
          <p className="mt-2 text-[15px] text-ink-2">
            {t`It is shown once. Whoever has it can read your plan; a calendar looks about twice a day.`}
          </p>
        </div>
      ) : (
        <button
          type="button"
          className="btn mt-3 min-h-12 w-full whitespace-normal"
          onClick={() => void act(async () => setPath((await newCalendar()).path ?? ""))}
        >
          {live > 0 ? t`Make another calendar address` : t`Make a calendar address`}
        </button>
      )}
      {live > 0 && (
        <button
          type="button"
          className="btn mt-2 min-h-12 w-full whitespace-normal"
          onClick={() =>
            void act(async () => {
              await endCalendars();
              setPath("");
            })
          }
        >
          {t`End ${plural(live, { one: "the address", other: "all # addresses" })}`}
        </button>
      )}
    </section>
  );
}
