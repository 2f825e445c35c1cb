import { useState, type FormEvent, type ReactNode } from "react";
import { client, the, type Schemas } from "../../../api/client";
import { PactFields, type Pact } from "../../../parts/pact";
import { Wrong } from "../../../parts/states";
import { t } from "../../../texts";
import { useMinutesChange } from "./changes";

const NOTHING: Pact = { owner: null, due: null };

/** A line that somebody writes into a section; under actions, with whose it is and by when. */
export function NewLine({
  meeting,
  section,
  actions,
}: {
  meeting: Schemas["MeetingOut"];
  section: string;
  actions: boolean;
}) {
  const [text, setText] = useState<string | null>(null);
  const [pact, setPact] = useState(NOTHING);
  const add = useMinutesChange(meeting, (given: string) =>
    the(
      client.POST("/api/meetings/{meeting_id}/minutes/lines", {
        params: { path: { meeting_id: meeting.id } },
        body: { section, text: given, lines: [], owner: pact.owner ?? "", due: pact.due },
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
      keep={() =>
        add.mutate(text, {
          onSuccess: () => {
            setText(null);
            setPact(NOTHING);
          },
        })
      }
    >
      {actions && (
        <PactFields
          id={section}
          there={meeting.people.map((one) => one.name)}
          pact={pact}
          change={setPact}
          none={t.minutes.asSaid}
        />
      )}
    </LineForm>
  );
}

/** A line being written or put in other words. */
export function LineForm({
  text,
  change,
  keep,
  close,
  error,
  children,
}: {
  text: string;
  change: (text: string) => void;
  keep: () => void;
  close: () => void;
  error: Error | null;
  children?: ReactNode;
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
      {children}
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
