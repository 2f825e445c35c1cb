import { createContext, useContext } from "react";
import type { Schemas } from "../../api/client";
import type { Lines } from "./record/lines";
import type { Player } from "./sound/player";

/** What the pages of an open meeting share: the minutes, what is asked, the record, the strip. */
export interface Shared {
  meeting: Schemas["MeetingOut"];
  /** None where there is no sound to hear. */
  player: Player | null;
  /** Every line of the record. */
  lines: Lines;
  /** The number of the line that is acted on. */
  chosen: number | null;
  choose: (line: number) => void;
  /** The words looked for in the record; empty: none. */
  find: string;
  setFind: (words: string) => void;
  /** The line that is being corrected. */
  editing: number | null;
  edit: (line: number | null) => void;
  /** Does the record go along with the sound? */
  follow: boolean;
  setFollow: (follow: boolean) => void;
  /** Play a line from its start, in seconds. */
  hear: (line: number, start: number) => void;
  /** Turn to a moment, in seconds, without playing. */
  go: (seconds: number) => void;
  /** The page of the record, which scrolls. */
  recordPage: HTMLDivElement | null;
}

export const SpreadContext = createContext<Shared | null>(null);

export function useSpread(): Shared {
  const shared = useContext(SpreadContext);
  if (!shared) throw new Error("only within a spread");
  return shared;
}
