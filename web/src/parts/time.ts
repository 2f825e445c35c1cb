import { locale, t } from "../texts";

/** Seconds as 4:07 or 1:04:07. */
export function clock(seconds: number): string {
  const whole = Math.max(0, Math.floor(seconds));
  const [h, m, s] = [Math.floor(whole / 3600), Math.floor(whole / 60) % 60, whole % 60];
  return h
    ? `${h}:${String(m).padStart(2, "0")}:${String(s).padStart(2, "0")}`
    : `${m}:${String(s).padStart(2, "0")}`;
}

const day = new Intl.DateTimeFormat(locale, {
  weekday: "short",
  day: "numeric",
  month: "short",
});
const longDay = new Intl.DateTimeFormat(locale, {
  weekday: "long",
  day: "numeric",
  month: "long",
  year: "numeric",
});
const time = new Intl.DateTimeFormat(locale, { hour: "2-digit", minute: "2-digit" });
const weekDay = new Intl.DateTimeFormat(locale, {
  day: "numeric",
  month: "long",
  year: "numeric",
});

export const showDay = (moment: string) => day.format(new Date(moment));
export const showLongDay = (moment: string) => longDay.format(new Date(moment));
export const showTime = (moment: string) => time.format(new Date(moment));

/** A calendar day without a time: it is the same day in every zone. */
export function showDate(date: string): string {
  const [y, m, d] = date.split("-").map(Number) as [number, number, number];
  return day.format(new Date(y, m - 1, d));
}

/** The same, with its year. */
export function showDateOfYear(date: string): string {
  const [y, m, d] = date.split("-").map(Number) as [number, number, number];
  return weekDay.format(new Date(y, m - 1, d));
}

/** The day of a moment here, as the API writes days. */
export function dayOf(moment: Date): string {
  const [month, number] = [moment.getMonth() + 1, moment.getDate()];
  return `${moment.getFullYear()}-${String(month).padStart(2, "0")}-${String(number).padStart(2, "0")}`;
}

/** So many days after a day, or before it. */
export function dayAfter(date: string, days: number): string {
  const [y, m, d] = date.split("-").map(Number) as [number, number, number];
  return dayOf(new Date(y, m - 1, d + days));
}

/** A calendar day in words, with its weekday. */
export function longDate(date: string): string {
  const [y, m, d] = date.split("-").map(Number) as [number, number, number];
  return longDay.format(new Date(y, m - 1, d));
}

export const isPast = (date: string) => date < dayOf(new Date());

/** The Monday of a moment's week, as a heading and as a key. */
export function weekOf(moment: string): { key: number; heading: string } {
  const date = new Date(moment);
  const monday = new Date(
    date.getFullYear(),
    date.getMonth(),
    date.getDate() - ((date.getDay() + 6) % 7),
  );
  return { key: monday.getTime(), heading: t.library.week({ day: weekDay.format(monday) }) };
}

/** Minutes of a meeting: "52 min". */
export const showLength = (seconds: number) => `${Math.max(1, Math.round(seconds / 60))} min`;

export function showLeft(seconds: number): string {
  return seconds < 90
    ? t.work.seconds({ n: Math.max(5, Math.ceil(seconds / 5) * 5) })
    : t.work.minutes({ n: Math.round(seconds / 60) });
}

/** A moment as a datetime-local field wants it, in the user's zone. */
export function forField(moment: Date): string {
  return new Date(moment.getTime() - moment.getTimezoneOffset() * 60_000)
    .toISOString()
    .slice(0, 16);
}

export const zone = () => Intl.DateTimeFormat().resolvedOptions().timeZone;
