import { useState } from "react";
import { Link } from "react-router";
import { client, the, type Schemas } from "../../api/client";
import {
  elsewhere,
  useFieldAnswers,
  useFieldQuestions,
  useFieldsThere,
  type Outside,
} from "../../api/elsewhere";
import { useChange } from "../../api/hooks";
import { Choose } from "../../parts/choose";
import { Field } from "../../parts/field";
import { useSay } from "../../parts/sayings";
import { Empty, Wrong } from "../../parts/states";
import { clock } from "../../parts/time";
import { t } from "../../texts";

type Answer = Schemas["FieldAnswerOut"];

/** What fields there are to hold: each value with the lines that say so, before anything is written. */
export function Answers({ one }: { one: Outside }) {
  const answers = useFieldAnswers(one.id).data ?? [];
  return (
    <section aria-labelledby="answers" className="sheet mt-6 p-6">
      <h2 id="answers" className="text-lg">
        {t.connections.answersTitle}
      </h2>
      {!answers.some((answer) => answer.state === "proposed") && (
        <Empty>{t.connections.noAnswers}</Empty>
      )}
      <ul>
        {answers.map((answer) => (
          <Row key={`${answer.id} ${answer.state}`} answer={answer} of={one.id} />
        ))}
      </ul>
    </section>
  );
}

function Row({ answer, of }: { answer: Answer; of: string }) {
  const [value, setValue] = useState(answer.value);
  const say = useSay();
  const at = { params: { path: { answer_id: answer.id } } };
  const stale = [elsewhere.answers(of), elsewhere.one(of), elsewhere.deliveries] as const;
  const confirm = useChange(
    () =>
      the(client.POST("/api/connections/answers/{answer_id}/confirm", { ...at, body: { value } })),
    ...stale,
  );
  const refuse = useChange(
    () => the(client.POST("/api/connections/answers/{answer_id}/refuse", at)),
    ...stale,
  );
  const open = answer.state === "proposed";
  return (
    <li className="border-b border-rule py-3 last:border-0">
      <p className="text-sm text-faded">
        {answer.place} · {answer.question}{" "}
        <Link to={`/meetings/${answer.meeting}`} className="cite">
          {answer.meeting_title}
        </Link>
      </p>
      {answer.quotes.map((quote) => (
        <blockquote key={quote.at} className="border-l-2 border-edge pl-3 font-serif text-sm">
          <Link to={`/meetings/${answer.meeting}?at=${Math.floor(quote.at)}`} className="cite mr-2">
            {clock(quote.at)}
          </Link>
          {quote.who}: {quote.text}
        </blockquote>
      ))}
      {open && !answer.value && <p className="mt-1 text-sm">{t.connections.unclear}</p>}
      <form
        className="mt-2 flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          confirm.mutate(undefined, { onSuccess: () => say(t.connections.confirmed) });
        }}
      >
        {answer.type === "choice" ? (
          <Choose
            id={`answer-${answer.id}`}
            label={t.connections.value({ field: answer.title })}
            value={value}
            change={setValue}
            options={{
              "": t.connections.choose,
              ...Object.fromEntries(answer.choices.map((one) => [one, one])),
            }}
          />
        ) : (
          <Field
            label={t.connections.value({ field: answer.title })}
            htmlFor={`answer-${answer.id}`}
          >
            <input
              id={`answer-${answer.id}`}
              type={answer.type === "date" ? "date" : "text"}
              inputMode={answer.type === "number" ? "decimal" : undefined}
              className="field"
              value={value}
              onChange={(event) => setValue(event.target.value)}
            />
          </Field>
        )}
        <button
          type="submit"
          className="press press-main"
          disabled={confirm.isPending || !value || (!open && value === answer.value)}
        >
          {t.connections.confirm}
        </button>
        {answer.state !== "refused" && (
          <button
            type="button"
            className="press"
            disabled={refuse.isPending}
            onClick={() =>
              refuse.mutate(undefined, { onSuccess: () => say(t.connections.refused) })
            }
          >
            {t.connections.refuse}
          </button>
        )}
        {!open && (
          <span className="pb-2 text-sm text-faded">
            {answer.state === "confirmed" ? t.connections.written : t.connections.notWritten}
          </span>
        )}
      </form>
      <Wrong error={confirm.error ?? refuse.error} />
    </li>
  );
}

/** By which question each field is filled. */
export function FieldQuestions({ one }: { one: Outside }) {
  const questions = useFieldQuestions(one.id).data ?? [];
  const there = useFieldsThere(one.id);
  const [field, setField] = useState("");
  const [question, setQuestion] = useState("");
  const [byItself, setByItself] = useState(false);
  const say = useSay();
  const at = { params: { path: { connection_id: one.id } } };
  const add = useChange(
    () =>
      the(
        client.PUT("/api/connections/{connection_id}/questions", {
          ...at,
          body: { field, question, by_itself: byItself },
        }),
      ),
    elsewhere.fields(one.id),
  );
  const drop = useChange(
    (id: number) =>
      the(
        client.DELETE("/api/connections/{connection_id}/questions/{question_id}", {
          params: { path: { connection_id: one.id, question_id: id } },
        }),
      ),
    elsewhere.fields(one.id),
  );
  return (
    <section aria-labelledby="fields" className="sheet mt-6 p-6">
      <h2 id="fields" className="text-lg">
        {t.connections.fieldsTitle}
      </h2>
      <p className="mb-2 text-sm text-faded">{t.connections.fieldsHint}</p>
      {questions.length === 0 && <Empty>{t.connections.noFields}</Empty>}
      <ul>
        {questions.map((asked) => (
          <li
            key={asked.id}
            className="flex flex-wrap items-baseline gap-x-4 border-b border-rule py-2"
          >
            <span className="grow font-serif">
              {asked.title}{" "}
              <span className="font-sans text-sm text-faded">
                {asked.question}
                {asked.by_itself && ` · ${t.connections.unlooked}`}
              </span>
            </span>
            <button
              type="button"
              className="plain text-sm"
              disabled={drop.isPending}
              onClick={() => drop.mutate(asked.id)}
            >
              {t.connections.dropField}
            </button>
          </li>
        ))}
      </ul>
      <form
        className="mt-3 grid gap-4 sm:grid-cols-2"
        onSubmit={(event) => {
          event.preventDefault();
          add.mutate(undefined, {
            onSuccess: () => {
              setField("");
              setQuestion("");
              say(t.connections.fieldAdded);
            },
          });
        }}
      >
        <Choose
          id="field"
          label={t.connections.field}
          value={field}
          change={setField}
          options={{
            "": t.connections.choose,
            ...Object.fromEntries((there.data ?? []).map((known) => [known.key, known.title])),
          }}
        />
        <Field label={t.connections.question} hint={t.connections.questionHint} htmlFor="question">
          <input
            id="question"
            maxLength={200}
            className="field"
            value={question}
            onChange={(event) => setQuestion(event.target.value)}
          />
        </Field>
        <label className="flex items-center gap-2 sm:col-span-2">
          <input
            type="checkbox"
            className="size-4 accent-slate"
            checked={byItself}
            onChange={(event) => setByItself(event.target.checked)}
          />
          {t.connections.byItself}
        </label>
        <p className="sm:col-span-2">
          <button
            type="submit"
            className="press"
            disabled={add.isPending || !field || !question.trim()}
          >
            {t.connections.addField}
          </button>
        </p>
        <Wrong error={add.error ?? drop.error ?? there.error} />
      </form>
    </section>
  );
}
