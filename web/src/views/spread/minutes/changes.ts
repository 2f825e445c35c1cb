import type { Schemas } from "../../../api/client";
import { keys, useChange } from "../../../api/hooks";

export type MinutesLine = Schemas["MinutesLineOut"];
export type Finding = Schemas["FindingOut"];

/** A change of the minutes; they are asked for anew, and so is what Today shows of them. */
export function useMinutesChange<In>(
  meeting: Schemas["MeetingOut"],
  change: (input: In) => Promise<unknown>,
) {
  return useChange(change, keys.minutes(meeting.id), keys.today);
}
