import { t } from "@lingui/core/macro";
import { useEffect, useState } from "react";
import type { Schema } from "../../api/client";
import { take } from "../../language";
import { Main, Page } from "./kit";
import { greet, join, Refused } from "./link";

/** The link's token stands behind the # and is taken out of the address at once. */
export function takeToken(): string {
  const token = location.hash.replace(/^#/, "");
  if (token) history.replaceState(null, "", "/pocket");
  return token;
}

const guess = () => {
  const a = navigator.userAgent;
  if (/iPad/.test(a)) return "tablet";
  if (/iPhone/.test(a)) return "phone";
  if (/Android/.test(a)) return /Mobile/.test(a) ? "phone" : "tablet";
  return "browser";
};

/** Whose link it is, what is kept, who reads it, how to leave: then the plan comes. */
export function Door({ token, done }: { token: string; done: () => void }) {
  const [who, setWho] = useState<Schema["PocketGreeting"]>();
  const [why, setWhy] = useState("");
  const [name, setName] = useState(guess);
  const [busy, setBusy] = useState(false);
  useEffect(() => {
    if (!token) return;
    greet(token).then(
      (g) => {
        setWho(g);
        take(g.language, () => history.replaceState(null, "", `/pocket#${token}`));
      },
      (e: unknown) =>
        setWhy(e instanceof Refused ? e.message : t`No connection. Open the link again when there is one.`),
    );
  }, [token]);
  if (!token)
    return (
      <Page title={t`Notchback`}>
        <h2 className="mt-4 text-[26px]">{t`Your coach has your way in`}</h2>
        <p className="mt-3 text-[17px]">
          {t`Ask for a link, or point this phone's camera at the square your coach shows. Your plan then comes here and works without a network.`}
        </p>
      </Page>
    );
  if (why)
    return (
      <Page title={t`Notchback`}>
        <p role="alert" className="mt-4 text-[18px]">
          {why}
        </p>
      </Page>
    );
  if (!who)
    return (
      <Page title={t`Notchback`}>
        <p role="status">{t`Looking…`}</p>
      </Page>
    );
  const enter = () => {
    setBusy(true);
    join(token, name).then(done, (e: unknown) => {
      setBusy(false);
      setWhy(e instanceof Refused ? e.message : t`No connection. Open the link again when there is one.`);
    });
  };
  return (
    <Page
      title={who.practice}
      foot={
        <Main disabled={busy || !name.trim()} onClick={enter}>
          {t`Yes, that is me, and I agree`}
        </Main>
      }
    >
      <h2 className="text-[28px] leading-tight">{t`Is this you, ${who.firstName}?`}</h2>
      <p className="mt-1 text-ink-2">{t`If not, close this page and tell your coach.`}</p>
      <ul className="mt-4 grid gap-2">
        {who.consent.map((c) => (
          <li key={c} className="border-t border-rule pt-2">
            {c}
          </li>
        ))}
      </ul>
      <label className="mt-4 block">
        <span className="mb-1 block font-semibold">{t`Call this device`}</span>
        <input
          className="field min-h-12"
          maxLength={60}
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
      </label>
    </Page>
  );
}
