import { useEffect, useRef, useState, type KeyboardEvent } from "react";
import { client, Problem, the, type Schemas } from "../../../api/client";
import { keys, useChange } from "../../../api/hooks";
import { wordsIn } from "../../../parts/spacing";
import { t } from "../../../texts";
import { draftOf, dropDraft, keepDraft } from "./draft";
import type { Line } from "./lines";

interface Props {
  meeting: Schemas["MeetingOut"];
  line: Line;
  close: () => void;
}
const AGAIN = 3000; // milliseconds until what could not be sent is tried again

/** A line being corrected in place. What is typed is kept on the device until the server has it. */
export function LineEditor({ meeting, line, close }: Props) {
  const kept = draftOf(meeting.id, line.number);
  const [text, setText] = useState(kept?.text ?? line.text);
  // What stood there when the correcting began: where somebody else changes it meanwhile, the server says so.
  const [before, setBefore] = useState(kept?.before ?? line.text);
  const field = useRef<HTMLTextAreaElement>(null);
  const path = { params: { path: { meeting_id: meeting.id, number: line.number } } };
  const put = useChange(
    (given: { text: string; before: string }) =>
      the(client.PUT("/api/meetings/{meeting_id}/lines/{number}", { ...path, body: given })),
    keys.record(meeting.id),
    keys.edits(meeting.id),
    keys.meeting(meeting.id),
  );
  const split = useChange(
    (word: number) =>
      the(
        client.POST("/api/meetings/{meeting_id}/turns/split", {
          params: { path: { meeting_id: meeting.id } },
          body: { line: line.number, word, name: "" },
        }),
      ),
    keys.record(meeting.id),
    keys.edits(meeting.id),
    keys.meeting(meeting.id),
  );
  const done = () => {
    dropDraft(meeting.id, line.number);
    close();
  };
  const keep = (over = before) => {
    if (text.trim() === over) done();
    else if (text.trim()) put.mutate({ text, before: over }, { onSuccess: done });
  };
  useEffect(() => {
    const box = field.current!;
    box.focus();
    box.setSelectionRange(box.value.length, box.value.length);
  }, []);
  useEffect(() => {
    const box = field.current!;
    box.style.height = "auto";
    box.style.height = `${box.scrollHeight + 2}px`;
  }, [text]);
  // Without a network the sending waits by itself; where the server does not answer, it is tried again.
  const failed = put.error instanceof Problem && put.error.status === 0;
  const lost = put.isPaused || failed;
  useEffect(() => {
    if (!failed) return;
    const later = setTimeout(() => keep(), AGAIN);
    return () => clearTimeout(later);
  });
  const change = (given: string) => {
    setText(given);
    if (given === before) dropDraft(meeting.id, line.number);
    else keepDraft(meeting.id, line.number, { text: given, before });
  };
  const press = (event: KeyboardEvent) => {
    if (event.key === "Escape") {
      event.stopPropagation();
      done();
    }
    if (event.key === "Enter") {
      event.preventDefault();
      if (!event.shiftKey) keep();
      else if (text === line.text)
        split.mutate(wordsIn(text.slice(0, field.current!.selectionStart)).length, {
          onSuccess: done,
        });
    }
  };
  const theirs =
    put.error instanceof Problem && typeof put.error.facts.text === "string"
      ? put.error.facts.text
      : null;
  const wrong = put.error ?? split.error;
  return (
    <span className="my-1 block rounded-card border border-brass p-2">
      <textarea
        ref={field}
        aria-label={t.record.editing({ number: line.number })}
        rows={1}
        className="block w-full resize-none bg-transparent font-serif leading-relaxed outline-none"
        value={text}
        onChange={(event) => change(event.target.value)}
        onKeyDown={press}
      />
      {lost ? (
        <span role="status" className="block text-sm text-clay">
          {t.record.waiting}
        </span>
      ) : (
        wrong && (
          <span role="alert" className="block text-sm text-clay">
            {wrong.message}
          </span>
        )
      )}
      <span className="mt-1 flex flex-wrap items-center gap-2 text-sm">
        <button
          type="button"
          className="press press-main px-2 py-0.5 text-sm"
          disabled={put.isPending || !text.trim()}
          onClick={() => keep()}
        >
          {t.record.keep}
        </button>
        <button type="button" className="plain text-sm" onClick={done}>
          {t.record.leave}
        </button>
        {theirs && (
          <>
            <button
              type="button"
              className="plain text-sm"
              onClick={() => {
                setBefore(theirs);
                change(theirs);
                put.reset();
              }}
            >
              {t.record.theirs}
            </button>
            <button
              type="button"
              className="plain text-sm"
              onClick={() => {
                setBefore(theirs);
                keep(theirs);
              }}
            >
              {t.record.mine}
            </button>
          </>
        )}
        <span className="text-xs text-faded max-sm:hidden">{t.record.hint}</span>
      </span>
    </span>
  );
}
