import type { Schemas } from "../../../api/client";
import { t } from "../../../texts";

/** A part of the record in seconds, or all of it. */
export type Stretch = { start: number; end: number } | null;

/** The whole record, or one of its chapters. */
export function Stretches({
  id,
  meeting,
  chapters,
  change,
}: {
  id: string;
  meeting: Schemas["MeetingOut"];
  chapters: Schemas["ChapterOut"][];
  change: (part: Stretch) => void;
}) {
  const ends = chapters.map((_, index) => chapters[index + 1]?.start ?? meeting.duration + 1);
  return (
    <select
      id={id}
      className="field"
      onChange={(event) => {
        const at = Number(event.target.value);
        change(at < 0 ? null : { start: chapters[at]!.start, end: ends[at]! });
      }}
    >
      <option value={-1}>{t.record.whole_record}</option>
      {chapters.map((chapter, index) => (
        <option key={chapter.start} value={index}>
          {t.record.chapter({ title: chapter.title })}
        </option>
      ))}
    </select>
  );
}
