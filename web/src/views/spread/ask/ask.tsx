import { useState } from "react";
import { client, failed, the, type Schemas } from "../../../api/client";
import { keys, useChange, useQuestions } from "../../../api/hooks";
import { pointing } from "../../../parts/pointing";
import { Owned } from "../../../parts/owned";
import { QuestionField } from "../../../parts/question";
import { Empty, Trouble, Wait } from "../../../parts/states";
import { clock } from "../../../parts/time";
import { t } from "../../../texts";
import { may } from "../../../api/rights";
import { useSpread } from "../context";
import type { Pointed } from "../pointed";

type Question = Schemas["QuestionOut"];
const SHOWN = 6;

/** Questions put to the meeting, each with the lines that answer it, or that none does. */
export function AskPage({ pointed }: { pointed: Pointed }) {
  const { meeting } = useSpread();
  const questions = useQuestions(meeting.id, true);
  const [text, setText] = useState("");
  const [after, setAfter] = useState<Question | null>(null);
  const put = useChange(
    (asked: { text: string; after: number | null }) =>
      the(
        client.POST("/api/meetings/{meeting_id}/questions", {
          params: { path: { meeting_id: meeting.id } },
          body: asked,
        }),
      ),
    keys.questions(meeting.id),
  );
  const ask = () => {
    // The next question can be typed while this one is answered; each stands by itself unless one goes on.
    put.mutate({ text, after: after?.id ?? null });
    setText("");
    setAfter(null);
  };
  if (failed(questions))
    return <Trouble error={questions.error} again={() => void questions.refetch()} />;
  const asked = [...(questions.data ?? [])].reverse();
  return (
    <div>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (text.trim() && !put.isPending) ask();
        }}
      >
        <QuestionField
          words={t.ask}
          text={text}
          setText={setText}
          after={after}
          fresh={() => setAfter(null)}
          busy={put.isPending}
        />
        {put.isPending && (
          <p role="status" className="mt-1 text-sm text-faded">
            {t.ask.answering({ question: put.variables?.text ?? "" })}
          </p>
        )}
        {put.error && (
          <p role="alert" className="mt-1 text-clay">
            {put.error.message}{" "}
            <button
              type="button"
              className="plain text-sm"
              onClick={() => setText(put.variables?.text ?? "")}
            >
              {t.ask.typed}
            </button>
          </p>
        )}
        <p className="mt-1 text-xs text-faded">{t.ask.mine}</p>
      </form>
      {questions.isPending ? <Wait /> : asked.length === 0 && <Empty>{t.ask.empty}</Empty>}
      <ul className="mt-3" aria-live="polite">
        {asked.map((one) => (
          <Asked key={one.id} question={one} point={pointed.row} goOn={() => setAfter(one)} />
        ))}
      </ul>
    </div>
  );
}

function Asked({
  question,
  point,
  goOn,
}: {
  question: Question;
  point: Pointed["row"];
  goOn: () => void;
}) {
  const { meeting, hear } = useSpread();
  const [all, setAll] = useState(false);
  const change = useChange(
    (body: { shared?: boolean; removed?: boolean }) =>
      the(
        client.PATCH("/api/questions/{question_id}", {
          params: { path: { question_id: question.id } },
          body,
        }),
      ),
    keys.questions(meeting.id),
  );
  const lines = all ? question.answer : question.answer.slice(0, SHOWN);
  return (
    <li className="border-b border-rule py-3">
      <h3 className="font-serif text-base">
        {question.text}
        {question.shared && (
          <span className="ml-2 font-sans text-xs font-normal text-faded">
            {t.ask.shared({ by: question.by })}
          </span>
        )}
      </h3>
      {question.times !== null ? (
        <p className="mt-1">{t.ask.times({ n: question.times ?? 0 })}</p>
      ) : (
        question.answer.length === 0 && (
          <p className="mt-1 font-serif text-faded italic">{t.ask.none}</p>
        )
      )}
      {question.opening && <p className="mt-1 font-serif">{question.opening}</p>}
      <ul>
        {lines.map((line, index) => (
          <li
            key={index}
            {...pointing(
              () => point({ id: question.id, lines: line.lines }),
              () => point(null),
            )}
            className="grid grid-cols-[1fr_auto] items-baseline gap-3 py-1 hover:bg-wash"
          >
            <span className="font-serif text-[0.97rem] leading-snug">
              <span className="font-sans text-sm font-semibold">{line.speaker}</span> {line.text}
            </span>
            <button
              type="button"
              className="cite"
              data-hear
              aria-label={t.spread.hear({ time: clock(line.start) })}
              onClick={() => line.lines[0] !== undefined && hear(line.lines[0], line.start)}
            >
              {clock(line.start)}
            </button>
          </li>
        ))}
      </ul>
      <p className="mt-1 flex flex-wrap gap-2">
        {question.answer.length > lines.length && (
          <button type="button" className="plain text-xs" onClick={() => setAll(true)}>
            {t.ask.more({ n: question.answer.length - lines.length })}
          </button>
        )}
        <button type="button" className="plain text-xs" onClick={goOn}>
          {t.ask.goOn}
        </button>
        {question.mine && (
          <Owned
            shared={question.shared}
            mayShare={may(meeting, "change")}
            change={change.mutate}
            words={t.ask}
          />
        )}
      </p>
    </li>
  );
}
