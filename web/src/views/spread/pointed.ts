import { useCallback, useEffect, useMemo, useState } from "react";
import type { Schemas } from "../../api/client";
import type { Player } from "./sound/player";

interface Places {
  minutes: readonly number[];
  lines: readonly number[];
}
const NOWHERE: Places = { minutes: [], lines: [] };
const NONE: ReadonlySet<number> = new Set();
/** The new one, or the old where both are of the same: a pointer says where it is with every step. */
const moved = (to: Places) => (from: Places) =>
  JSON.stringify(from) === JSON.stringify(to) ? from : to;

/** What a pointer or the focus is at, on either page, and what belongs to it on the other. */
export function usePointed(
  minutes: Schemas["MinutesOut"] | undefined,
  player: Player | null,
  follow: boolean,
  recordPage: HTMLElement | null,
) {
  const [at, setAt] = useState(NOWHERE);
  const citing = useMemo(() => {
    const map = new Map<number, number[]>();
    for (const row of minutes?.lines ?? [])
      if (!row.removed)
        for (const line of row.lines) map.set(line, [...(map.get(line) ?? []), row.id]);
    return map;
  }, [minutes]);
  const line = useCallback(
    (number: number | null) => {
      const rows = number === null ? undefined : citing.get(number);
      setAt(moved(rows ? { minutes: rows, lines: [number!] } : NOWHERE));
    },
    [citing],
  );
  const row = useCallback(
    (one: { id: number; lines: number[]; section?: string } | null) =>
      setAt(moved(one ? { minutes: one.section ? [one.id] : [], lines: one.lines } : NOWHERE)),
    [],
  );

  // Pointing at a line of the minutes brings what it rests on into sight opposite, unless the page is following the sound.
  const [show, setShow] = useState<number | null>(null);
  useEffect(() => {
    const [first] = at.lines;
    const moving = player && !player.audio.paused && follow;
    if (first === undefined || recordPage?.matches(":hover") || moving) return;
    const later = setTimeout(() => setShow(first), 250);
    return () => clearTimeout(later);
  }, [at, player, follow, recordPage]);

  const cited = useMemo(() => new Set(citing.keys()), [citing]);
  const litLines = useMemo(() => new Set(at.lines), [at]);
  const litRows = useMemo(() => (at.minutes.length ? new Set(at.minutes) : NONE), [at]);
  return {
    at,
    /** Lines of the record on which the minutes rest. */
    cited: cited as ReadonlySet<number>,
    /** Lines of the record, and rows of the minutes, that belong to what is pointed at. */
    litLines: litLines as ReadonlySet<number>,
    litRows,
    /** The line of the record that is to come into sight. */
    show,
    /** Point at a line of the record, at a row of the minutes; null: at nothing. */
    line,
    row,
  };
}
export type Pointed = ReturnType<typeof usePointed>;
