import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { t } from "../texts";
import { Glyph, type Kind } from "./glyph";
import { SmallRain } from "./rain";
import { showDay, showLength, showTime } from "./time";

const COUNTED = ["decision", "action", "question"] as const satisfies Kind[];

export function Counts({ counts }: { counts: Record<string, number> }) {
  return (
    <ul className="flex gap-3 text-sm">
      {COUNTED.map((kind) => (
        <li
          key={kind}
          title={t.glyphs[kind]}
          className={`flex items-center gap-1 ${counts[kind] ? "" : "opacity-45"}`}
        >
          <Glyph kind={kind} />
          {counts[kind] ?? 0}
          <span className="sr-only"> {t.glyphs[kind]}</span>
        </li>
      ))}
    </ul>
  );
}

/** A meeting as a row: when, what, who, how it rained, what came of it. */
export function MeetingRow({ meeting }: { meeting: Schemas["RowOut"] }) {
  return (
    <Link
      to={`/meetings/${meeting.id}`}
      className="grid grid-cols-[1fr_auto] items-center gap-x-5 gap-y-1 border-b border-rule px-2 py-3 hover:bg-wash md:grid-cols-[6rem_minmax(0,1fr)_minmax(6rem,11rem)_8rem]"
    >
      <span className="text-sm text-faded max-md:col-span-2">
        {showDay(meeting.started_at)}
        <span className="md:block"> {showTime(meeting.started_at)}</span>
      </span>
      <span className="min-w-0 max-md:col-span-2">
        <span className="block truncate font-serif text-base">{meeting.title}</span>
        <span className="block truncate text-sm text-faded">
          {meeting.people.join(", ") || " "}
        </span>
      </span>
      {meeting.ready ? (
        <SmallRain strip={meeting.strip} />
      ) : (
        <span className="text-sm text-faded italic">{t.library.notReady}</span>
      )}
      <span className="flex flex-col items-end gap-1 text-sm text-faded">
        <Counts counts={meeting.counts} />
        {meeting.duration > 0 && showLength(meeting.duration)}
      </span>
    </Link>
  );
}
