import { useState } from "react";
import { Link } from "react-router";
import { client, the } from "../../api/client";
import { useChange } from "../../api/hooks";
import { Field } from "../../parts/field";
import { Wrong } from "../../parts/states";
import { t } from "../../texts";

/** Where there is no such meeting, or none that I see: whoever made it can be asked. */
export function AskToSee({ id }: { id: string }) {
  const [words, setWords] = useState("");
  const ask = useChange(() =>
    the(client.POST("/api/asked-to-see", { body: { meeting: id, words } })),
  );
  return (
    <div className="mx-auto w-full max-w-xl px-4 py-8 sm:px-6">
      <h1 className="mb-2 text-xl">{t.spread.noMeeting}</h1>
      {ask.isSuccess ? (
        <p role="status">{t.asked.sent}</p>
      ) : (
        <form
          className="flex flex-col gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            ask.mutate(undefined);
          }}
        >
          <p className="text-faded">{t.asked.askHint}</p>
          <Field label={t.asked.words} htmlFor="ask-words">
            <input
              id="ask-words"
              className="field"
              maxLength={400}
              value={words}
              onChange={(event) => setWords(event.target.value)}
            />
          </Field>
          <Wrong error={ask.error} />
          <div>
            <button type="submit" className="press press-main" disabled={ask.isPending}>
              {t.asked.ask}
            </button>
          </div>
        </form>
      )}
      <Link className="cite mt-6 inline-block" to="/library">
        {t.spread.toLibrary}
      </Link>
    </div>
  );
}
