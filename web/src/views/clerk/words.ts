import type { Schemas } from "../../api/client";
import { t } from "../../texts";

type Visit = Schemas["VisitOut"];
type Message = string | ((values: { who: string }) => string);

const said = (message: Message, who: string) =>
  typeof message === "string" ? message : message({ who });

/** Whether it goes to a planned meeting, and why. */
export const whyOf = (clerk: Schemas["ClerkOut"]) =>
  t.clerk.the({ words: said(t.clerk.reasons[clerk.reason], clerk.who) });

/** What happened to it, after "the clerk". */
export const happened = (change: Schemas["VisitChangeOut"]) =>
  said(t.clerk.causes[change.cause], change.who);

/** How a visit stands. What was just asked of it counts before what it has done yet. */
export function standing(visit: Visit): string {
  const last = visit.changes.at(-1);
  if (visit.leaving) return t.clerk.the({ words: t.clerk.leaving });
  if (visit.off && visit.state === "on") return t.clerk.the({ words: t.clerk.goingOff });
  return t.clerk.the({ words: last ? happened(last) : t.clerk.expected });
}

/** What it is called on a page. */
export const titleOf = (visit: Visit) => visit.title || t.clerk.untitled({ host: visit.host });
