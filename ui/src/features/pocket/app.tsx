import { t } from "@lingui/core/macro";
import { useState } from "react";
import { weekDay } from "../../parts/dates";
import { Door, takeToken } from "./door";
import { Earlier } from "./earlier";
import { Five } from "./five";
import { How } from "./how";
import { Main, Page, Place } from "./kit";
import { More } from "./more";
import { Morning } from "./morning";
import { emergency, idOf, sittingsOf } from "./rules";
import { RunForm } from "./runform";
import { Session } from "./session";
import { SomethingNew } from "./something";
import { type Go, Today } from "./today";
import { type Ready, usePocket } from "./usepocket";
import { Week } from "./week";

const places = [
  ["today", t`Today`],
  ["week", t`Week`],
  ["how", t`How it goes`],
] as const;
type At = (typeof places)[number][0] | Go;

const first = takeToken();

export function Pocket() {
  const p = usePocket(first !== "");
  const [token, setToken] = useState(first);
  if (!p.ready)
    return (
      <Page title={t`Notchback`}>
        <p role="status">{t`Opening…`}</p>
      </Page>
    );
  if (token || p.out || !p.plan)
    return (
      <>
        {p.out && !token && (
          <p role="alert" className="bg-clay p-3 text-chalk">
            {t`This phone is signed out. What you told and was not sent stays here; ask your coach for a new link.`}
          </p>
        )}
        {!token && !p.out && !p.online ? (
          <Page title={t`Notchback`}>
            <p className="mt-4 text-[18px]">
              {t`No connection, and no plan on this phone yet. Open it again when there is one.`}
            </p>
          </Page>
        ) : (
          <Door
            token={token}
            done={() => {
              setToken("");
              void p.refresh();
            }}
          />
        )}
      </>
    );
  return <Inside p={p as Ready} />;
}

/** An emergency fills the screen, before any server knows of it. */
function Care({ p, back }: { p: Ready; back?: () => void }) {
  const c = p.plan.care ?? p.plan.ifCare;
  const number = p.plan.practice.emergencyNumber;
  return (
    <main className="min-h-dvh bg-clay p-5 text-chalk">
      <div role="alert">
        <h1 className="text-[40px]">{c.title}</h1>
        <p className="mt-4 text-[22px] font-semibold">{c.do}</p>
        {number && (
          <a
            className="mt-5 flex min-h-16 items-center justify-center bg-chalk text-[24px] font-bold text-clay"
            href={`tel:${number.replace(/[^\d+]/g, "")}`}
          >
            {t`Call ${number}`}
          </a>
        )}
        {c.text && <p className="mt-4 text-[18px] whitespace-pre-line">{c.text}</p>}
        <ul className="mt-4 list-disc pl-5 text-[18px]">
          {c.signs.map((s) => (
            <li key={s}>{s}</li>
          ))}
        </ul>
        <p className="mt-6 text-[18px]">{c.after}</p>
        <p className="mt-4">
          {p.plan.practice.name}: {p.plan.practice.contact}
        </p>
        {back ? (
          <div className="mt-6 grid gap-2">
            <button type="button" className="btn min-h-14 text-ink" onClick={back}>
              {t`Tell it, or go back`}
            </button>
          </div>
        ) : (
          <p className="mt-4 text-[15px]">
            <Place kept={p.kept} online={p.online} />
          </p>
        )}
      </div>
    </main>
  );
}

function Inside({ p }: { p: Ready }) {
  const [at, setAt] = useState<At>("today");
  const home = () => {
    setAt("today");
  };
  const go = (g: Go) => {
    setAt(g);
  };
  if (p.plan.care || emergency(p.plan, p.local)) return <Care p={p} />;
  if (p.shared) return <RunForm key={p.shared.name} p={p} on={p.today} back={p.unshare} shared={p.shared} />;
  if (typeof at === "object")
    switch (at.to) {
      case "morning":
        return (
          <Morning p={p} on={at.on} first={at.first} back={home} somethingNew={() => go({ to: "new" })} />
        );
      case "new":
        return <SomethingNew p={p} back={home} />;
      case "run":
        return <RunForm p={p} on={at.on} back={home} />;
      case "session": {
        const now = sittingsOf(p.plan, p.local, p.today, p.now.getTime()).find(
          (s) => idOf(s.sitting) === at.id,
        );
        if (now) return <Session p={p} now={now} back={home} />;
        return (
          <Page title={t`Session`} back={home} foot={<Main onClick={home}>{t`To today`}</Main>}>
            <p className="mt-4 text-[18px]">{t`Nothing of it is open any more. Today says why.`}</p>
          </Page>
        );
      }
      case "earlier":
        return <Earlier key={at.on} p={p} on={at.on} go={go} back={home} />;
      case "five":
        return (
          <Page title={t`Today, otherwise`} back={home}>
            <Five p={p} />
          </Page>
        );
      case "care":
        return <Care p={p} back={() => go({ to: "new" })} />;
      case "more":
        return (
          <Page title={p.plan.practice.name} back={home}>
            <More p={p} />
          </Page>
        );
    }
  return (
    <div className="mx-auto flex h-dvh w-full max-w-lg flex-col">
      <header className="flex min-h-13 items-center justify-between gap-3 border-b-2 border-ink bg-chalk px-4">
        <h1 className="text-[17px]">{weekDay(p.today)}</h1>
        <button
          type="button"
          className="flex min-h-11 items-center text-[15px] text-ink-2 underline underline-offset-4"
          onClick={() => go({ to: "more" })}
        >
          <Place kept={p.kept} online={p.online} />
        </button>
      </header>
      {(!p.lasting || p.full) && (
        <p role="alert" className="bg-clay-wash px-4 py-2 text-[15px]">
          {p.full
            ? t`This phone has no room left. Free some, then tell it again.`
            : t`This browser keeps nothing: what you tell is lost if the page closes before it was sent.`}
        </p>
      )}
      <main key={at} className="min-h-0 flex-1 overflow-y-auto px-4 py-3">
        {at === "today" && <Today p={p} go={go} />}
        {at === "week" && <Week p={p} />}
        {at === "how" && <How p={p} />}
        <p className="mt-5 border-t border-rule pt-2 text-[15px]">
          {t`A pop, numbness, a hot swollen calf, chest pain? `}
          <button
            type="button"
            className="font-bold text-clay underline underline-offset-4"
            onClick={() => go({ to: "care" })}
          >
            {t`Get care now`}
          </button>
          {" · "}
          <button type="button" className="underline underline-offset-4" onClick={() => go({ to: "more" })}>
            {t`Whom to call`}
          </button>
        </p>
      </main>
      <nav aria-label={t`Places`} className="grid grid-cols-3 border-t-2 border-ink bg-chalk">
        {places.map(([id, name]) => (
          <button
            key={id}
            type="button"
            aria-current={at === id ? "page" : undefined}
            className={`min-h-16 border-t-4 ${at === id ? "border-ink font-bold" : "border-transparent text-ink-2"}`}
            onClick={() => setAt(id)}
          >
            {name}
          </button>
        ))}
      </nav>
    </div>
  );
}
