import { i18n } from "@lingui/core";

/** The languages there are; English stands in the code itself. */
export const languages = { en: "English", de: "Deutsch" } as const;
export type Language = keyof typeof languages;

i18n.load("en", {});
i18n.activate("en");

/** Of the phone's page alone: the desk in the same browser speaks its own. */
const key = "pocket-language";

const known = (l: unknown): l is Language => typeof l === "string" && l in languages;

/** The language kept on this device; without one, English. */
export function kept(): Language {
  try {
    const l = localStorage.getItem(key);
    return known(l) ? l : "en";
  } catch {
    return "en";
  }
}

/** Gets a language ready before the first view is made: texts are looked up as the code is read. */
export async function speak(l: Language): Promise<void> {
  if (l === "de") i18n.load("de", (await import("./locales/de.po")).messages);
  i18n.activate(l);
  document.documentElement.lang = l;
}

/** Numbers and dates are written as here. */
export const locale = () => (i18n.locale === "de" ? "de-DE" : "en-GB");

/** Takes a language over from the server: kept for the next start, which is now when it is another. */
export function take(l: unknown, before?: () => void): void {
  if (!known(l) || l === kept()) return;
  try {
    localStorage.setItem(key, l);
  } catch {
    return; // nowhere to keep it: English stays
  }
  before?.();
  location.reload();
}
