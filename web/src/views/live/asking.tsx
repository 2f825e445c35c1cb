import { useState } from "react";
import { client, the, type Schemas } from "../../api/client";
import { keys, useChange, useQuestions } from "../../api/hooks";
import { Wrong } from "../../parts/states";
import { clock } from "../../parts/time";
import { t } from "../../texts";

const SHOWN = 3;

/** Questions put to a meeting while it runs: answered by what was said up to now. */
export function Asking({ meeting }: { meeting: Schemas["MeetingOut"] }) {
  const [text, setText] = useState("");
  const questions = useQuestions(meeting.id, true);
  const put = useChange(
    (asked: string) =>
      the(
        client.POST("/api/meetings/{meeting_id}/questions", {
          params: { path: { meeting_id: meeting.id } },
          body: { text: asked, after: null },
        }),
      ),
    keys.questions(meeting.id),
  );
  return (
    <section aria-label={t.ask.question}>
      <h2 className="mb-2 text-lg italic">{t.ask.question}</h2>
      <form
        className="flex gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (!text.trim() || put.isPending) return;
          put.mutate(text);
          setText("");
        }}
      >
        <input
          aria-label={t.ask.question}
          placeholder={t.ask.example}
          maxLength={400}
          className="field font-serif placeholder:text-faded placeholder:italic"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <button type="submit" className="press" disabled={!text.trim() || put.isPending}>
          {t.ask.ask}
        </button>
      </form>
      {put.isPending && (
        <p role="status" className="mt-1 text-sm text-faded">
          {t.ask.answering({ question: put.variables })}
        </p>
      )}
      <Wrong error={put.error} />
      <ul className="mt-1" aria-live="polite">
        {[...(questions.data ?? [])].reverse().map((one) => (
          <li key={one.id} className="border-b border-rule py-2">
            <h3 className="font-serif text-base">{one.text}</h3>
            {one.times === null && one.answer.length === 0 && (
              <p className="font-serif text-faded italic">{t.ask.none}</p>
            )}
            {one.times !== null && <p>{t.ask.times({ n: one.times })}</p>}
            {one.answer.slice(0, SHOWN).map((line) => (
              <p key={line.start} className="grid grid-cols-[3.2rem_1fr] items-baseline">
                <span className="text-xs text-faded">{clock(line.start)}</span>
                <span className="font-serif">
                  <b className="font-sans text-sm">{line.speaker}</b> {line.text}
                </span>
              </p>
            ))}
          </li>
        ))}
      </ul>
    </section>
  );
}
