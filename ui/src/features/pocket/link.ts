import { t } from "@lingui/core/macro";
import type { Schema } from "../../api/client";
import type { Language } from "../../language";
import type { Plan, Report } from "./keep";
import type { Send } from "./outbox";

/** The edition of the application, told at each contact. */
export const edition = "1";

export class Refused extends Error {}
export class SignedOut extends Error {}
export class Away extends Error {}

async function ask<T>(method: "GET" | "POST" | "PUT" | "DELETE", path: string, body?: unknown): Promise<T> {
  let res: Response;
  try {
    res = await fetch(path, {
      method,
      credentials: "same-origin",
      headers: body === undefined ? {} : { "Content-Type": "application/json" },
      body: body === undefined ? undefined : JSON.stringify(body),
    });
  } catch {
    throw new Away();
  }
  if (res.status === 401) throw new SignedOut();
  if (res.status >= 500 || res.status === 429 || res.status === 408) throw new Away();
  const got: unknown = await res.json().catch(() => undefined);
  if (!res.ok) {
    const e = got as Partial<Schema["ErrorModel"]> | undefined;
    throw new Refused(e?.errors?.[0]?.message ?? e?.detail ?? t`That was not taken.`);
  }
  return got as T;
}

export const greet = (token: string) => ask<Schema["PocketGreeting"]>("POST", "/api/pocket/greet", { token });
export const join = (token: string, name: string) =>
  ask<unknown>("POST", "/api/pocket/join", { token, name, agreed: true });
export const fetchPlan = () =>
  ask<Plan>(
    "GET",
    `/api/pocket/plan?clock=${encodeURIComponent(new Date().toISOString())}&edition=${edition}`,
  );
export const readNotes = (upTo: string) => ask<unknown>("POST", "/api/pocket/read", { upTo });
/** Chooses the language the runner reads in. */
export const putLanguage = (language: Language) => ask<unknown>("PUT", "/api/pocket/language", { language });
/** Chooses of what the runner's calendar reminds. */
export const putReminders = (kinds: string[]) => ask<unknown>("PUT", "/api/pocket/reminders", { kinds });
export const newCalendar = () => ask<Schema["FeedView"]>("POST", "/api/pocket/calendar", {});
export const endCalendars = () => ask<unknown>("DELETE", "/api/pocket/calendar");
export const leave = (device?: string) => ask<unknown>("POST", "/api/pocket/leave", device ? { device } : {});

/** Sends reports; what went wrong is said and never thrown. */
export const send: Send = async (list: Report[]) => {
  try {
    const got = await ask<{ items: { id: string; state: string; why?: string }[] }>(
      "POST",
      "/api/pocket/reports",
      {
        reports: list,
      },
    );
    return { is: "told", items: got.items };
  } catch (e) {
    if (e instanceof SignedOut) return { is: "out" };
    if (e instanceof Refused) return { is: "refused", why: e.message };
    return { is: "away" };
  }
};

export const zone = () => Intl.DateTimeFormat().resolvedOptions().timeZone;
