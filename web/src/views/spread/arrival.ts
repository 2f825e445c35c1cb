import { useEffect, useRef } from "react";
import type { Schemas } from "../../api/client";
import type { Address } from "./address";
import { lineAt, type Lines } from "./record/lines";
import type { Player } from "./sound/player";
import { keptPlace } from "./sound/video";

/** An address that names a line begins there, one that names a moment there; else one goes on where one left off. One that asks for it is
 * heard at once. */
export function useArrival(
  meeting: Schemas["MeetingOut"] | undefined,
  lines: Lines | null,
  player: Player | null,
  address: Address,
) {
  const arrived = useRef(false);
  const { chosen, at, hear, put, setSide } = address;
  useEffect(() => {
    if (arrived.current || !lines || !meeting) return;
    arrived.current = true;
    const line = lines.all.find((one) => one.number === chosen);
    if (line && player) {
      player.seek(line.start);
      if (hear) void player.play();
    } else if (at !== null || player) {
      const place = at ?? keptPlace(meeting.id, meeting.duration);
      const there = place !== null && lineAt(lines.all, place + 0.3);
      if (place !== null) player?.seek(place);
      if (there) put({ at: null, line: String(there.number) });
      if (at !== null) setSide("record");
    }
    if (hear) put({ hear: null });
  }, [lines, meeting, chosen, player, at, hear, put, setSide]);
}
