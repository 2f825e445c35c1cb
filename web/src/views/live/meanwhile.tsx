import { useState, type FormEvent } from "react";
import { client, the, type Schemas } from "../../api/client";
import { keys, useChange, useNotes } from "../../api/hooks";
import { useKeys } from "../../parts/keys";
import { Owned } from "../../parts/owned";
import { useSay } from "../../parts/sayings";
import { Empty, Wrong } from "../../parts/states";
import { clock } from "../../parts/time";
import { Asking } from "./asking";
import { t } from "../../texts";
import { Agenda } from "./agenda";
import { Carried } from "./carried";
import { may } from "../../api/rights";

type Note = Schemas["NoteOut"];

/** What people do while a meeting is captured: the agenda, notes, marks, actions, and catching up. */
export function Meanwhile({
  meeting,
  seconds,
}: {
  meeting: Schemas["MeetingOut"];
  seconds: number;
}) {
  return (
    <div className="flex flex-col gap-7">
      <Agenda meeting={meeting} seconds={seconds} />
      <Carried meeting={meeting} />
      <Notes meeting={meeting} now={() => seconds} />
      {may(meeting, "change") && <Jot meeting={meeting} seconds={seconds} />}
      <Lately meeting={meeting} />
      <Asking meeting={meeting} />
    </div>
  );
}

export function Notes({
  meeting,
  now,
  hear,
}: {
  meeting: Schemas["MeetingOut"];
  now: () => number;
  hear?: (seconds: number) => void;
}) {
  const notes = useNotes(meeting.id);
  const [text, setText] = useState("");
  const [began, setBegan] = useState<number | null>(null);
  const [shared, setShared] = useState(false);
  const say = useSay();
  const at = { params: { path: { meeting_id: meeting.id } } };
  const write = useChange(
    (body: { text: string; at: number; shared: boolean }) =>
      the(client.POST("/api/meetings/{meeting_id}/notes", { ...at, body })),
    keys.notes(meeting.id),
  );
  const mark = useChange(
    (body: { kind: string; start: number; end: number }) =>
      the(client.POST("/api/meetings/{meeting_id}/marks", { ...at, body })),
    keys.notes(meeting.id),
  );
  const unmark = useChange(
    ({ id, removed }: { id: number; removed: boolean }) =>
      the(
        client.PATCH("/api/notes/marks/{mark_id}", {
          params: { path: { mark_id: id } },
          body: { removed },
        }),
      ),
    keys.notes(meeting.id),
  );
  const flag = (kind: string | undefined) => {
    // A mark is pressed just after the passage that it is about.
    if (kind)
      mark.mutate(
        { kind, start: Math.max(0, now() - 15), end: now() },
        {
          onSuccess: ({ id }) =>
            say(t.notes.marked({ kind }), () => unmark.mutate({ id, removed: true })),
        },
      );
  };
  // Beside a finished record the key marks the chosen words instead.
  useKeys(
    hear
      ? {}
      : {
          k: () => flag(notes.data?.kinds[0]),
          ...Object.fromEntries(
            (notes.data?.kinds ?? []).map((kind, index) => [`F${index + 6}`, () => flag(kind)]),
          ),
        },
  );
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (text.trim())
      write.mutate(
        { text, at: began ?? now(), shared },
        {
          onSuccess: () => {
            setText("");
            setBegan(null);
          },
        },
      );
  };
  return (
    <section aria-label={t.notes.title}>
      <h2 className="mb-2 text-lg italic">{t.notes.title}</h2>
      {notes.data && notes.data.notes.length === 0 && <Empty>{t.notes.empty}</Empty>}
      <ul className="mb-2">
        {notes.data?.notes.map((note) => (
          <OneNote key={note.id} meeting={meeting} note={note} hear={hear} />
        ))}
      </ul>
      <form onSubmit={submit}>
        <textarea
          aria-label={t.notes.write}
          placeholder={t.notes.placeholder}
          rows={2}
          className="field font-serif placeholder:text-faded placeholder:italic"
          value={text}
          onChange={(event) => {
            setText(event.target.value);
            if (began === null) setBegan(now());
            if (!event.target.value) setBegan(null);
          }}
          onKeyDown={(event) => {
            if (event.key === "Enter" && !event.shiftKey) submit(event);
          }}
        />
        <Wrong error={write.error} className="text-sm" />
        <div className="mt-1 flex flex-wrap items-center gap-3">
          <button type="submit" disabled={!text.trim()} className="press px-3 py-1 text-sm">
            {t.notes.add}
          </button>
          {may(meeting, "change") && (
            <label className="flex items-center gap-2 text-sm">
              <input
                type="checkbox"
                checked={shared}
                onChange={(event) => setShared(event.target.checked)}
                className="size-4 accent-slate"
              />
              {t.notes.share}
            </label>
          )}
          <span className="text-sm text-faded">{shared ? t.notes.shared : t.notes.mine}</span>
        </div>
      </form>
      {may(meeting, "change") && (
        <div className="mt-3">
          <p className="flex flex-wrap items-center gap-2 text-sm">
            <span className="text-faded">{t.notes.mark}:</span>
            {notes.data?.kinds.map((kind, index) => (
              <button
                key={kind}
                type="button"
                className="press px-2 py-0.5 text-sm"
                aria-keyshortcuts={index === 0 ? "k" : `F${index + 6}`}
                onClick={() => flag(kind)}
              >
                {kind}
              </button>
            ))}
          </p>
          <ul className="mt-1 text-sm">
            {notes.data?.marks.map((one) => (
              <li key={one.id} className="flex items-baseline gap-3 py-0.5">
                <At seconds={one.start} hear={hear} />
                <span className="grow">{one.kind}</span>
                <button
                  type="button"
                  className="plain text-xs"
                  onClick={() =>
                    unmark.mutate(
                      { id: one.id, removed: true },
                      {
                        onSuccess: () =>
                          say(t.notes.removed, () => unmark.mutate({ id: one.id, removed: false })),
                      },
                    )
                  }
                >
                  {t.notes.unmark}
                </button>
              </li>
            ))}
          </ul>
        </div>
      )}
    </section>
  );
}

/** A time: to be heard where there is sound already, else to be read. */
function At({ seconds, hear }: { seconds: number; hear: ((seconds: number) => void) | undefined }) {
  return hear ? (
    <button
      type="button"
      className="cite justify-self-start"
      data-hear
      aria-label={t.spread.hear({ time: clock(seconds) })}
      onClick={() => hear(seconds)}
    >
      {clock(seconds)}
    </button>
  ) : (
    <span className="text-xs text-faded">{clock(seconds)}</span>
  );
}

function OneNote({
  meeting,
  note,
  hear,
}: {
  meeting: Schemas["MeetingOut"];
  note: Note;
  hear: ((seconds: number) => void) | undefined;
}) {
  const change = useChange(
    (body: { text?: string; shared?: boolean; removed?: boolean }) =>
      the(client.PATCH("/api/notes/{note_id}", { params: { path: { note_id: note.id } }, body })),
    keys.notes(meeting.id),
  );
  const [text, setText] = useState<string | null>(null);
  return (
    <li className="group grid grid-cols-[3.2rem_1fr_auto] items-baseline gap-x-1 border-b border-rule py-1.5">
      {note.at === null ? <span /> : <At seconds={note.at ?? 0} hear={hear} />}
      {text === null ? (
        <span className="font-serif whitespace-pre-wrap">{note.text}</span>
      ) : (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            change.mutate({ text }, { onSuccess: () => setText(null) });
          }}
        >
          <input
            aria-label={t.notes.write}
            autoFocus
            className="field font-serif"
            value={text}
            onChange={(event) => setText(event.target.value)}
            onBlur={() => {
              if (text.trim() && text !== note.text) change.mutate({ text });
              setText(null);
            }}
          />
        </form>
      )}
      <Beside note={note} hear={hear} />
      <span className="flex items-baseline text-xs text-faded">
        {note.shared ? (
          <abbr title={note.by} className="mx-1 font-serif italic no-underline">
            {note.initials}
          </abbr>
        ) : null}
        {note.mine && (
          <>
            <button type="button" className="plain text-xs" onClick={() => setText(note.text)}>
              {t.spread.correct}
            </button>
            <Owned
              shared={note.shared}
              mayShare={may(meeting, "change")}
              change={change.mutate}
              words={t.notes}
            />
          </>
        )}
      </span>
    </li>
  );
}

/** What the record has beside a note: the lines it refers to, what they add, where they say otherwise. The note itself stays its writer's. */
function Beside({ note, hear }: { note: Note; hear: ((seconds: number) => void) | undefined }) {
  if (!note.beside.length || !hear) return null;
  return (
    <span className="col-span-3 col-start-2 row-start-2 mt-1 block border-l-2 border-edge pl-2 text-sm">
      {note.beside.map((line) => (
        <span key={line.number} className="block text-faded">
          <span className="sr-only">{t.notes.refers}: </span>
          <span className="font-semibold">{line.speaker}</span>{" "}
          <span className="font-serif">{line.text}</span>{" "}
          <button
            type="button"
            className="cite"
            data-hear
            aria-label={t.spread.hear({ time: clock(line.start) })}
            onClick={() => hear(line.start)}
          >
            {clock(line.start)}
          </button>
        </span>
      ))}
      {note.adds.length > 0 && (
        <span className="block text-faded">{t.notes.adds({ what: note.adds.join(", ") })}</span>
      )}
      {note.differs.map((one) => (
        <span key={one.note} className="block text-clay">
          {t.notes.differs({ mine: one.note, theirs: one.record })}
        </span>
      ))}
    </span>
  );
}

function Jot({ meeting, seconds }: { meeting: Schemas["MeetingOut"]; seconds: number }) {
  const [text, setText] = useState("");
  const [owner, setOwner] = useState("");
  const [due, setDue] = useState("");
  const say = useSay();
  const jot = useChange(
    () =>
      the(
        client.POST("/api/meetings/{meeting_id}/actions", {
          params: { path: { meeting_id: meeting.id } },
          body: { text, owner, due: due || null, at: seconds, lines: [] },
        }),
      ),
    keys.minutes(meeting.id),
    keys.today,
  );
  return (
    <form
      aria-label={t.notes.jot}
      onSubmit={(event) => {
        event.preventDefault();
        if (text.trim())
          jot.mutate(undefined, {
            onSuccess: () => {
              setText("");
              setOwner("");
              setDue("");
              say(t.notes.jotted);
            },
          });
      }}
    >
      <h2 className="mb-2 text-lg italic">{t.notes.jot}</h2>
      <input
        aria-label={t.notes.what}
        placeholder={t.notes.what}
        className="field mb-2 font-serif placeholder:text-faded placeholder:italic"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <div className="flex flex-wrap items-end gap-2">
        <label className="grow text-sm">
          {t.notes.owner}
          <input
            list="jot-people"
            className="field"
            value={owner}
            onChange={(event) => setOwner(event.target.value)}
          />
        </label>
        <datalist id="jot-people">
          {meeting.people.map((one) => (
            <option key={one.id} value={one.name} />
          ))}
        </datalist>
        <label className="text-sm">
          {t.notes.due}
          <input
            type="date"
            className="field"
            value={due}
            onChange={(event) => setDue(event.target.value)}
          />
        </label>
        <button type="submit" disabled={!text.trim() || jot.isPending} className="press">
          {t.notes.add}
        </button>
      </div>
      <Wrong error={jot.error} className="text-sm" />
    </form>
  );
}

/** For someone who lost the thread or came late. */
function Lately({ meeting }: { meeting: Schemas["MeetingOut"] }) {
  const [minutes, setMinutes] = useState(5);
  const ask = useChange((wanted: number) =>
    the(
      client.GET("/api/meetings/{meeting_id}/lately", {
        params: { path: { meeting_id: meeting.id }, query: { minutes: wanted } },
      }),
    ),
  );
  return (
    <section aria-label={t.live.lately}>
      <h2 className="mb-2 text-lg italic">{t.live.lately}</h2>
      <p className="flex flex-wrap gap-2">
        {[3, 5, 10, 0].map((one) => (
          <button
            key={one}
            type="button"
            aria-pressed={ask.isSuccess && minutes === one}
            className="press px-2 py-0.5 text-sm aria-pressed:bg-wash"
            onClick={() => {
              setMinutes(one);
              ask.mutate(one);
            }}
          >
            {t.live.latelyMinutes({ n: one })}
          </button>
        ))}
      </p>
      <Wrong error={ask.error} />
      {ask.data &&
        (ask.data.lines.length ? (
          <ul role="status" className="mt-2">
            {ask.data.lines.map((line) => (
              <li
                key={`${line.start}${line.text}`}
                className="grid grid-cols-[1fr_auto] gap-3 py-1 font-serif"
              >
                {line.text}
                <span className="font-sans text-xs text-faded">{clock(line.start)}</span>
              </li>
            ))}
          </ul>
        ) : (
          <div role="status">
            <Empty>{t.live.latelyNone}</Empty>
          </div>
        ))}
    </section>
  );
}
