interface Words {
  question: string;
  example: string;
  ask: string;
  going: (said: { text: string }) => string;
  fresh: string;
}

/** A question being typed, and the one that it goes on from, if any. */
export function QuestionField({
  words,
  text,
  setText,
  after,
  fresh,
  busy,
  autoFocus = false,
}: {
  words: Words;
  text: string;
  setText: (text: string) => void;
  after: { text: string } | null;
  /** Have it stand by itself. */
  fresh: () => void;
  busy: boolean;
  autoFocus?: boolean;
}) {
  return (
    <>
      {after && (
        <p className="mb-1 text-sm text-faded">
          {words.going({ text: after.text })}{" "}
          <button type="button" className="plain text-sm" onClick={fresh}>
            {words.fresh}
          </button>
        </p>
      )}
      <div className="flex gap-2">
        <input
          autoFocus={autoFocus}
          aria-label={words.question}
          placeholder={words.example}
          maxLength={400}
          className="field font-serif placeholder:text-faded placeholder:italic"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <button type="submit" className="press press-main" disabled={!text.trim() || busy}>
          {words.ask}
        </button>
      </div>
    </>
  );
}
