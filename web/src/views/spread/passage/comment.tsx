import { useRef, useState } from "react";
import { client, the, type Schemas } from "../../../api/client";
import { keys, useChange, useComments } from "../../../api/hooks";
import { Field } from "../../../parts/field";
import { Foot, Leaf } from "../../../parts/leaf";
import { useSay } from "../../../parts/sayings";
import { showDay } from "../../../parts/time";
import { t } from "../../../texts";
import { timed, type Passage } from "./passage";
import { may } from "../../../api/rights";
import { Wrong } from "../../../parts/states";

type Comment = Schemas["CommentOut"];

/** Say something about a passage, or answer what somebody said; "@" and a name mentions a colleague. */
export function CommentLeaf({
  meeting,
  passage,
  answer,
  close,
}: {
  meeting: Schemas["MeetingOut"];
  passage?: Passage;
  answer?: Comment;
  close: () => void;
}) {
  const say = useSay();
  const people = useComments(meeting.id).data?.people ?? [];
  const [text, setText] = useState("");
  const field = useRef<HTMLTextAreaElement>(null);
  const send = useChange(async () => {
    const span = passage
      ? await timed(meeting.id, passage)
      : { start: answer!.start, end: answer!.end };
    return the(
      client.POST("/api/meetings/{meeting_id}/comments", {
        params: { path: { meeting_id: meeting.id } },
        body: { text, start: span.start, end: span.end, after: answer?.id ?? null },
      }),
    );
  }, keys.comments(meeting.id));
  const typed = /(?:^|\s)@([^@\n]{0,40})$/u.exec(text)?.[1]?.toLocaleLowerCase();
  const meant =
    typed === undefined
      ? []
      : people.filter((name) => name.toLocaleLowerCase().includes(typed)).slice(0, 6);
  const mention = (name: string) => {
    setText((old) => {
      const kept = old.replace(/@[^@\n]{0,40}$/u, "");
      return `${kept}${kept && !/\s$/u.test(kept) ? " " : ""}@${name} `;
    });
    field.current?.focus();
  };
  return (
    <Leaf title={answer ? t.passages.answer : t.passages.commentTitle} close={close}>
      <p className="mt-2 max-h-28 overflow-y-auto font-serif text-sm text-faded italic">
        {passage?.text ?? answer?.text}
      </p>
      <form
        className="mt-3"
        onSubmit={(event) => {
          event.preventDefault();
          send.mutate(undefined, {
            onSuccess: (made) => {
              close();
              say(
                made.not_told.length
                  ? t.passages.notTold({ names: made.not_told.join(", ") })
                  : t.passages.commented,
              );
            },
          });
        }}
      >
        <Field label={t.passages.words} htmlFor="comment">
          <textarea
            ref={field}
            id="comment"
            autoFocus
            rows={4}
            maxLength={4000}
            className="field"
            value={text}
            onChange={(event) => setText(event.target.value)}
            onKeyDown={(event) => {
              if (event.key === "Tab" && !event.shiftKey && meant[0]) {
                event.preventDefault();
                mention(meant[0]);
              }
            }}
          />
        </Field>
        {meant.length > 0 && (
          <ul aria-label={t.passages.suggest} className="flex flex-wrap gap-2 pt-1">
            {meant.map((name) => (
              <li key={name}>
                <button
                  type="button"
                  className="press px-2 py-0.5 text-sm"
                  onClick={() => mention(name)}
                >
                  @{name}
                </button>
              </li>
            ))}
          </ul>
        )}
        <div className="mt-2">
          <Field label={t.passages.mention} htmlFor="mention" hint={t.passages.mentionHint}>
            <select
              id="mention"
              className="field"
              value=""
              onChange={(event) => mention(event.target.value)}
            >
              <option value="" disabled />
              {people.map((name) => (
                <option key={name}>{name}</option>
              ))}
            </select>
          </Field>
        </div>
        <Wrong error={send.error} className="mt-2" />
        <Foot
          className="mt-4 flex gap-3"
          act={t.passages.send}
          off={!text.trim() || send.isPending}
          close={close}
        />
      </form>
    </Leaf>
  );
}

/** What stands under a turn: marks, words and comments on its passages, and where something was struck. */
export function Margin({
  meeting,
  answer,
  marks,
  comments,
  reactions,
  struck,
}: {
  meeting: Schemas["MeetingOut"];
  answer: (comment: Comment) => void;
  marks: Schemas["MarkOut"][];
  comments: Comment[];
  reactions: Schemas["ReactionOut"][];
  struck: Schemas["StruckSpanOut"][];
}) {
  const say = useSay();
  const mark = useChange(
    ({ id, removed }: { id: number; removed: boolean }) =>
      the(
        client.PATCH("/api/notes/marks/{mark_id}", {
          params: { path: { mark_id: id } },
          body: { removed },
        }),
      ),
    keys.notes(meeting.id),
  );
  const remove = useChange(
    ({ id, removed }: { id: number; removed: boolean }) =>
      the(
        client.PATCH("/api/comments/{comment_id}", {
          params: { path: { comment_id: id } },
          body: { removed },
        }),
      ),
    keys.comments(meeting.id),
  );
  const one = (comment: Comment) => (
    <div key={comment.id} className={comment.after === null ? "mt-1.5" : "mt-1 ml-5"}>
      <p className="whitespace-pre-line">
        <span className="font-serif italic" title={`${comment.by}, ${showDay(comment.at)}`}>
          {comment.by}
        </span>{" "}
        {comment.text}
        {comment.changed && <span className="text-xs text-faded"> ({t.passages.changed})</span>}
      </p>
      <p className="flex gap-4 text-xs">
        {may(meeting, "change") && comment.after === null && (
          <button type="button" className="cite" onClick={() => answer(comment)}>
            {t.passages.answer}
          </button>
        )}
        {comment.mine && (
          <button
            type="button"
            className="cite"
            onClick={() =>
              remove.mutate(
                { id: comment.id, removed: true },
                {
                  onSuccess: () =>
                    say(t.passages.commentRemoved, () =>
                      remove.mutate({ id: comment.id, removed: false }),
                    ),
                },
              )
            }
          >
            {t.passages.removeComment}
          </button>
        )}
      </p>
    </div>
  );
  const roots = comments.filter((comment) => comment.after === null);
  return (
    <div className="mt-1 border-l-2 border-brass/50 pl-3 text-sm">
      {struck.map((gap) => (
        <p key={gap.start} className="hatched my-1 inline-block px-2 py-0.5">
          <span className="bg-paper px-1 text-xs text-faded">
            {t.passages.gap({
              time: length(gap.end - gap.start),
              by: gap.by ?? "–",
              day: showDay(gap.at),
            })}
          </span>
        </p>
      ))}
      {(marks.length > 0 || reactions.length > 0) && (
        <p className="flex flex-wrap gap-x-4 text-xs text-faded">
          {marks.map((flag) => (
            <span key={flag.id}>
              {flag.by ? t.passages.markBy({ kind: flag.kind, who: flag.by }) : flag.kind}
              {may(meeting, "change") && (
                <button
                  type="button"
                  className="plain px-1"
                  aria-label={`${t.passages.unmark}: ${flag.kind}`}
                  title={t.passages.unmark}
                  onClick={() => mark.mutate({ id: flag.id, removed: true })}
                >
                  ×
                </button>
              )}
            </span>
          ))}
          {[...reactions]
            .sort((a, b) => b.by.length - a.by.length)
            .map((word) => (
              // The more who say it, the heavier it stands.
              <span
                key={`${word.kind}${word.start}`}
                title={word.by.join(", ")}
                style={{ fontWeight: Math.min(800, 300 + 100 * word.by.length) }}
              >
                {t.passages.reactions[word.kind] ?? word.kind}
                <span className="sr-only">: {word.by.join(", ")}</span>
              </span>
            ))}
        </p>
      )}
      {roots.map((comment) => (
        <div key={comment.id}>
          {one(comment)}
          {comments
            .filter((reply) => reply.after === comment.id)
            .sort((a, b) => a.at.localeCompare(b.at))
            .map(one)}
        </div>
      ))}
      <Wrong error={mark.error ?? remove.error} />
    </div>
  );
}

const length = (seconds: number) =>
  seconds < 60 ? `${Math.max(1, Math.round(seconds))} s` : `${Math.round(seconds / 60)} min`;
