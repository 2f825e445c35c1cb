import { client, the, type Schemas } from "../../../api/client";
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

/** Have an earlier version of the minutes back. */
export const useRestore = (meeting: Schemas["MeetingOut"]) =>
  useChange(
    (number: number) =>
      the(
        client.POST("/api/meetings/{meeting_id}/minutes/versions/{number}/restore", {
          params: { path: { meeting_id: meeting.id, number } },
        }),
      ),
    keys.minutes(meeting.id),
    keys.today,
  );
