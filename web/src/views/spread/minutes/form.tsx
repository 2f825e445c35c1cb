import { useState, type FormEvent } from "react";
import { client, the, type Schemas } from "../../../api/client";
import { Wrong } from "../../../parts/states";
import { t } from "../../../texts";
import { useMinutesChange } from "./changes";

/** A line that somebody writes into a section. */
export function NewLine({ meeting, section }: { meeting: Schemas["MeetingOut"]; section: string }) {
  const [text, setText] = useState<string | null>(null);
  const add = useMinutesChange(meeting, (given: string) =>
    the(
      client.POST("/api/meetings/{meeting_id}/minutes/lines", {
        params: { path: { meeting_id: meeting.id } },
        body: { section, text: given, lines: [] },
      }),
    ),
  );
  if (text === null)
    return (
      <button type="button" className="plain ml-7 text-sm" onClick={() => setText("")}>
        {t.spread.write}
      </button>
    );
  return (
    <LineForm
      text={text}
      change={setText}
      error={add.error}
      close={() => setText(null)}
      keep={() => add.mutate(text, { onSuccess: () => setText(null) })}
    />
  );
}

/** A line being written or put in other words. */
export function LineForm({
  text,
  change,
  keep,
  close,
  error,
}: {
  text: string;
  change: (text: string) => void;
  keep: () => void;
  close: () => void;
  error: Error | null;
}) {
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (text.trim()) keep();
  };
  return (
    <form onSubmit={submit} className="my-2 ml-7">
      <textarea
        aria-label={t.spread.write}
        autoFocus
        rows={2}
        className="field font-serif"
        value={text}
        onChange={(event) => change(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === "Escape") close();
          if (event.key === "Enter" && !event.shiftKey) submit(event);
        }}
      />
      <Wrong error={error} className="text-sm" />
      <div className="mt-1 flex gap-2">
        <button
          type="submit"
          disabled={!text.trim()}
          className="press press-main px-3 py-1 text-sm"
        >
          {t.spread.save}
        </button>
        <button type="button" className="plain text-sm" onClick={close}>
          {t.spread.cancel}
        </button>
      </div>
    </form>
  );
}
