import { useEffect, useState, type FormEvent } from "react";
import { Link, useParams } from "react-router";
import { client, failed, the, type Schemas } from "../../api/client";
import { keys, useChange, useMeeting, useReview } from "../../api/hooks";
import { useKeys } from "../../parts/keys";
import { written } from "../../parts/spacing";
import { Empty, Trouble, Wait, Wrong } from "../../parts/states";
import { clock } from "../../parts/time";
import { t } from "../../texts";
import { usePlayer } from "../spread/sound/player";
import { may } from "../../api/rights";

type Doubt = Schemas["DoubtOut"];
const UNSURE = 0.5;
const AROUND = 0.7; // seconds heard before and after a line

/** The lines most likely wrong, walked through with the keys, each heard as one comes to it. */
export function Review() {
  const { id = "" } = useParams();
  const meeting = useMeeting(id);
  const review = useReview(id);
  const [at, setAt] = useState(0);
  const [fixing, setFixing] = useState<{ first: number; last: number } | null>(null);
  const player = usePlayer(meeting.data?.recording?.playable ? `/api/meetings/${id}/sound` : null);
  const lines = review.data ?? [];
  const here = Math.min(at, lines.length - 1);
  const doubt = lines[here];

  const hear = (one: Doubt | undefined = doubt) => {
    if (!one || !player) return;
    player.seek(one.start - AROUND);
    void player.play();
  };
  useEffect(() => {
    if (!player || !doubt) return;
    const leave = player.subscribe(() => {
      if (player.time > doubt.end + AROUND) player.audio.pause();
    });
    return () => {
      leave();
    };
  }, [player, doubt]);
  const right = useChange(
    (line: number) =>
      the(
        client.POST("/api/meetings/{meeting_id}/lines/{number}/right", {
          params: { path: { meeting_id: id, number: line } },
        }),
      ),
    keys.review(id),
    keys.record(id),
  );
  const uncorrect = useChange(
    ({ line, index }: { line: number; index: number }) =>
      the(
        client.DELETE("/api/meetings/{meeting_id}/lines/{number}/words/{index}/correction", {
          params: { path: { meeting_id: id, number: line, index } },
        }),
      ),
    keys.review(id),
    keys.record(id),
  );
  const go = (to: number) => {
    const next = Math.max(0, Math.min(lines.length - 1, to));
    setAt(next);
    setFixing(null);
    hear(lines[next]);
  };
  useKeys({
    " ": () => hear(),
    ".": () => go(here + 1),
    ",": () => go(here - 1),
    Enter: () => {
      if (doubt) right.mutate(doubt.line);
    },
    e: () => {
      if (doubt) setFixing(worst(doubt));
    },
  });
  if (meeting.isPending || review.isPending) return <Wait />;
  if (failed(meeting)) return <Trouble error={meeting.error} />;
  if (failed(review)) return <Trouble error={review.error} again={() => void review.refetch()} />;
  return (
    <div className="mx-auto w-full max-w-3xl px-4 py-8 sm:px-6">
      <p className="mb-1">
        <Link className="cite" to={`/meetings/${id}`}>
          {meeting.data.title}
        </Link>
      </p>
      <h1 className="mb-1 text-2xl">{t.review.title}</h1>
      <p className="mb-5 text-faded">{t.review.intro}</p>
      {!doubt ? (
        <Empty>{t.review.none}</Empty>
      ) : (
        <article
          aria-label={t.review.line({ n: here + 1, of: lines.length })}
          className="sheet p-6"
        >
          <p className="flex flex-wrap items-baseline gap-x-4 text-sm text-faded">
            <span>{t.review.line({ n: here + 1, of: lines.length })}</span>
            <span>
              {doubt.voice}, {clock(doubt.start)}
            </span>
            <span>{doubt.reasons.map((one) => t.review.reasons[one]).join(" · ")}</span>
          </p>
          <p className="my-4 font-serif text-lg leading-relaxed">
            {doubt.words.map((word, index) => (
              <span key={index}>
                <button
                  type="button"
                  disabled={!may(meeting.data, "change")}
                  aria-label={t.review.fixWord({ word: word.text })}
                  onClick={() => setFixing({ first: index, last: index })}
                  className={`rounded-[2px] hover:bg-wash ${fixing && index >= fixing.first && index <= fixing.last ? "bg-glow" : ""} ${word.probability < UNSURE ? "border-b border-dashed border-clay" : ""}`}
                >
                  {word.text}
                </button>
                {word.heard && word.probability < 1 && may(meeting.data, "change") && (
                  <button
                    type="button"
                    className="plain text-xs"
                    title={t.review.takeBackHint}
                    onClick={() => uncorrect.mutate({ line: doubt.line, index })}
                  >
                    {t.review.takeBack({ heard: word.heard })}
                  </button>
                )}{" "}
              </span>
            ))}
          </p>
          {fixing ? (
            <Fix
              key={`${doubt.line}-${fixing.first}`}
              meeting={id}
              doubt={doubt}
              fixing={fixing}
              setFixing={setFixing}
            />
          ) : (
            <div className="flex flex-wrap gap-3">
              {player && (
                <button type="button" className="press" onClick={() => hear()}>
                  {t.review.hear}
                </button>
              )}
              {may(meeting.data, "change") && (
                <button
                  type="button"
                  className="press press-main"
                  onClick={() => right.mutate(doubt.line)}
                >
                  {t.review.right}
                </button>
              )}
              {may(meeting.data, "change") && (
                <button type="button" className="press" onClick={() => setFixing(worst(doubt))}>
                  {t.review.fix}
                </button>
              )}
              <span className="grow" />
              <button
                type="button"
                className="plain"
                disabled={here === 0}
                onClick={() => go(here - 1)}
              >
                {t.review.before}
              </button>
              <button
                type="button"
                className="plain"
                disabled={here === lines.length - 1}
                onClick={() => go(here + 1)}
              >
                {t.review.next}
              </button>
            </div>
          )}
          <Wrong error={right.error ?? uncorrect.error} className="mt-3" />
        </article>
      )}
      <p className="mt-3 text-sm text-faded">{t.review.keys}</p>
    </div>
  );
}

/** The words to begin with: the least probable run. */
function worst(doubt: Doubt): { first: number; last: number } {
  let first = doubt.words.reduce(
    (best, word, index) => (word.probability < doubt.words[best]!.probability ? index : best),
    0,
  );
  let last = first;
  while (first > 0 && doubt.words[first - 1]!.probability < UNSURE) first--;
  while (last < doubt.words.length - 1 && doubt.words[last + 1]!.probability < UNSURE) last++;
  return { first, last };
}

function Fix({
  meeting,
  doubt,
  fixing,
  setFixing,
}: {
  meeting: string;
  doubt: Doubt;
  fixing: { first: number; last: number };
  setFixing: (fixing: { first: number; last: number } | null) => void;
}) {
  const before = written(doubt.words.slice(fixing.first, fixing.last + 1).map((word) => word.text));
  const [text, setText] = useState(before);
  const fix = useChange(
    () =>
      the(
        client.POST("/api/meetings/{meeting_id}/lines/{number}/words", {
          params: { path: { meeting_id: meeting, number: doubt.line } },
          body: { ...fixing, text, before },
        }),
      ),
    keys.review(meeting),
    keys.record(meeting),
    keys.words,
  );
  const submit = (event: FormEvent) => {
    event.preventDefault();
    fix.mutate(undefined, { onSuccess: () => setFixing(null) });
  };
  return (
    <form
      onSubmit={submit}
      onKeyDown={(event) => {
        if (event.key === "Escape") setFixing(null);
      }}
    >
      <label htmlFor="fix" className="block font-serif text-sm">
        {t.review.instead({ before })}
      </label>
      <div className="mt-1 flex flex-wrap items-center gap-3">
        <input
          id="fix"
          autoFocus
          className="field max-w-sm font-serif"
          value={text}
          onChange={(event) => setText(event.target.value)}
          onFocus={(event) => event.target.select()}
        />
        <button type="submit" disabled={fix.isPending} className="press press-main">
          {t.review.keep}
        </button>
        <button
          type="button"
          className="plain"
          disabled={fixing.last >= doubt.words.length - 1}
          onClick={() => setFixing({ ...fixing, last: fixing.last + 1 })}
        >
          {t.review.more}
        </button>
        <button type="button" className="plain" onClick={() => setFixing(null)}>
          {t.review.leave}
        </button>
      </div>
      <Wrong error={fix.error} className="mt-2" />
    </form>
  );
}
