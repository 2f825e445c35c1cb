import type { Schemas } from "../../../api/client";
import { useEdits } from "../../../api/hooks";
import { Leaf } from "../../../parts/leaf";
import { Empty, Trouble, Wait } from "../../../parts/states";
import { showDay, showTime } from "../../../parts/time";
import { t } from "../../../texts";

/** Who changed what in the record, and when. */
export function Changes({ meeting, close }: { meeting: Schemas["MeetingOut"]; close: () => void }) {
  const edits = useEdits(meeting.id);
  return (
    <Leaf title={t.record.changesTitle} close={close}>
      {edits.isPending && <Wait />}
      {edits.error && <Trouble error={edits.error} />}
      {edits.data?.edits.length === 0 && <Empty>{t.record.noChanges}</Empty>}
      <ul tabIndex={0} className="mt-3 max-h-[70dvh] overflow-y-auto">
        {edits.data?.edits.map((edit) => (
          <li
            key={edit.number}
            className={`border-b border-rule py-2 ${edit.undone ? "text-faded" : ""}`}
          >
            <p className="text-sm">
              <span className="font-semibold">{edit.by}</span> {t.record.kinds[edit.kind]}
              {edit.turns > 0 && ` (${t.record.turns({ n: edit.turns })})`}{" "}
              <span className="text-faded">
                {showDay(edit.at)}, {showTime(edit.at)}
                {edit.undone && ` · ${t.record.undone}`}
              </span>
            </p>
            {edit.lines.map((line) => (
              <p key={line.line} className="mt-1 font-serif text-sm">
                <del className="text-clay">{line.before}</del>
                <br />
                <ins className="no-underline">{line.after}</ins>
              </p>
            ))}
          </li>
        ))}
      </ul>
    </Leaf>
  );
}
