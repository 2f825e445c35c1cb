import type { Schemas } from "../api/client";
import { t } from "../texts";

type Way = Schemas["WayOut"];

/** Those who get the minutes, in names; who has no place here is said to be outside. */
export function namesOf(receivers: Way["receivers"]): string {
  return receivers
    .map((one) => (one.outside ? t.sending.outside({ name: one.name }) : one.name))
    .join(", ");
}

/** Who gets the minutes and when, in a sentence. */
export function told(way: Way): string {
  if (!way.receivers.length) return t.sending.nobody;
  const names = namesOf(way.receivers);
  return way.going === "at once" ? t.sending.goAtOnce({ names }) : t.sending.goWhenSent({ names });
}
