import { locale } from "../language";

const short = new Intl.DateTimeFormat(locale(), { day: "numeric", month: "short", timeZone: "UTC" });
const long = new Intl.DateTimeFormat(locale(), {
  weekday: "short",
  day: "numeric",
  month: "short",
  timeZone: "UTC",
});
const whole = new Intl.DateTimeFormat(locale(), {
  weekday: "long",
  day: "numeric",
  month: "long",
  timeZone: "UTC",
});
const stampIn = (timeZone?: string) =>
  new Intl.DateTimeFormat(locale(), {
    day: "numeric",
    month: "short",
    hour: "2-digit",
    minute: "2-digit",
    timeZone,
  });
let stamp = stampIn();

/** From now on times are said in this zone: the practice's, wherever the coach is. */
export function saidIn(zone: string) {
  try {
    stamp = stampIn(zone);
  } catch {
    // a zone this browser doesn't know: the device's own stays
  }
}

const at = (iso: string) => new Date(`${iso}T00:00:00Z`);
// As the language says it; examples in English.
/** "12 Nov" */
export const dayMonth = (iso: string) => short.format(at(iso));
/** "12 Nov", with the year where it is not this one: "3 Jan 2028" */
export const dayYear = (iso: string, today: string) =>
  iso.slice(0, 4) === today.slice(0, 4) ? dayMonth(iso) : `${dayMonth(iso)} ${iso.slice(0, 4)}`;
/** "Tue 12 Nov" */
export const weekDay = (iso: string) => long.format(at(iso)).replace(",", "");
/** "Tuesday 12 November" */
export const longDay = (iso: string) => whole.format(at(iso)).replace(",", "");
/** "12 Nov, 18:04" in the practice's time; the device's own where nobody is signed in */
export const moment = (iso: string) => stamp.format(new Date(iso));
/** The date some days later. */
export const plusDays = (iso: string, n: number) =>
  new Date(at(iso).getTime() + n * 86_400_000).toISOString().slice(0, 10);
