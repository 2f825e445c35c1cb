import { locale } from "../../texts";

/** The moments of a day, on the clocks of a zone. */
export interface Day {
  key: string;
  name: string;
  times: { at: string; clock: string }[];
}

/** Free moments by the day on which they fall where whoever looks is. */
export function byDay(moments: string[], zone: string): Day[] {
  const key = new Intl.DateTimeFormat("en-CA", { timeZone: zone });
  const name = new Intl.DateTimeFormat(locale, {
    timeZone: zone,
    weekday: "long",
    day: "numeric",
    month: "long",
  });
  const clock = new Intl.DateTimeFormat(locale, {
    timeZone: zone,
    hour: "2-digit",
    minute: "2-digit",
    hour12: false,
  });
  const days = new Map<string, Day>();
  for (const at of moments) {
    const moment = new Date(at);
    const of = key.format(moment);
    if (!days.has(of)) days.set(of, { key: of, name: name.format(moment), times: [] });
    days.get(of)!.times.push({ at, clock: clock.format(moment) });
  }
  return [...days.values()];
}

/** A moment in words, on the clocks of a zone. */
export function inWords(at: string, zone: string): string {
  return new Intl.DateTimeFormat(locale, {
    timeZone: zone,
    weekday: "long",
    day: "numeric",
    month: "long",
    hour: "2-digit",
    minute: "2-digit",
    hour12: false,
  }).format(new Date(at));
}

/** "09:30" → minutes of the day, and back. */
export const minutesOf = (clock: string) => {
  const [hour, minute] = clock.split(":").map(Number);
  return (hour ?? 0) * 60 + (minute ?? 0);
};
export const clockOf = (minutes: number) =>
  `${String(Math.floor(minutes / 60)).padStart(2, "0")}:${String(minutes % 60).padStart(2, "0")}`;
