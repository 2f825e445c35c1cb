import { useState } from "react";
import { client, failed, the, type Schemas } from "../../api/client";
import { keys, useChange, useWords } from "../../api/hooks";
import { Field } from "../../parts/field";
import { useSay } from "../../parts/sayings";
import { Trouble, Wait } from "../../parts/states";
import { t } from "../../texts";

type Term = Schemas["TermOut"];
const EMPTY = { text: "", sounds: "", mistaken: "" };
const listed = (text: string) =>
  text
    .split(",")
    .map((one) => one.trim())
    .filter(Boolean);

/** The team's names and jargon: how they are written, how they sound, what they are mistaken for. */
export function Words() {
  const words = useWords();
  const [term, setTerm] = useState(EMPTY);
  const say = useSay();
  const add = useChange(
    (given: { text: string; sounds: string[]; mistaken: string[] }) =>
      the(client.POST("/api/words", { body: given })),
    keys.words,
  );
  const remove = useChange(
    (id: number) =>
      the(client.DELETE("/api/words/{term_id}", { params: { path: { term_id: id } } })),
    keys.words,
  );
  const decline = useChange(
    (offer: { heard: string; meant: string }) =>
      the(client.POST("/api/words/offers/declined", { body: offer })),
    keys.words,
  );
  if (words.isPending) return <Wait />;
  if (failed(words)) return <Trouble error={words.error} again={() => void words.refetch()} />;
  const { terms, offers } = words.data;
  const wrong = add.error ?? remove.error ?? decline.error;
  const put = () =>
    add.mutate(
      { text: term.text, sounds: listed(term.sounds), mistaken: listed(term.mistaken) },
      { onSuccess: () => setTerm(EMPTY) },
    );
  const take = (one: Term) =>
    remove.mutate(one.id, {
      onSuccess: () =>
        say(t.words.removed({ word: one.text }), () =>
          add.mutate({ text: one.text, sounds: one.sounds ?? [], mistaken: one.mistaken ?? [] }),
        ),
    });
  const entry = (key: keyof typeof EMPTY, label: string, example = "") => (
    <Field label={label} htmlFor={`term-${key}`}>
      <input
        id={`term-${key}`}
        maxLength={key === "text" ? 80 : 400}
        className="field placeholder:text-faded placeholder:italic"
        placeholder={example}
        value={term[key]}
        onChange={(event) => setTerm({ ...term, [key]: event.target.value })}
      />
    </Field>
  );
  return (
    <div className="mx-auto w-full max-w-3xl px-4 py-8 sm:px-6">
      <h1 className="mb-1 text-2xl">{t.words.title}</h1>
      <p className="mb-5 text-faded">{t.words.intro}</p>
      <form
        className="sheet grid items-end gap-4 p-5 sm:grid-cols-[1fr_1fr_1fr_auto]"
        onSubmit={(event) => {
          event.preventDefault();
          if (term.text.trim()) put();
        }}
      >
        {entry("text", t.words.text)}
        {entry("sounds", t.words.sounds, t.words.soundsExample)}
        {entry("mistaken", t.words.mistaken, t.words.mistakenExample)}
        <button
          type="submit"
          disabled={!term.text.trim() || add.isPending}
          className="press press-main"
        >
          {t.words.add}
        </button>
      </form>
      {wrong && (
        <p role="alert" className="mt-3 border-l-4 border-clay pl-3">
          {wrong.message}
        </p>
      )}
      {offers.length > 0 && (
        <section aria-label={t.words.offers} className="mt-6">
          <h2 className="mb-1 text-lg">{t.words.offers}</h2>
          <ul>
            {offers.map((one) => (
              <li
                key={`${one.heard}-${one.meant}`}
                className="flex flex-wrap items-baseline gap-x-4 border-b border-rule py-2"
              >
                <span className="grow font-serif">
                  {t.words.offer({ heard: one.heard, meant: one.meant, times: one.times })}
                </span>
                <button
                  type="button"
                  className="press px-2 py-0.5 text-sm"
                  onClick={() =>
                    add.mutate({
                      text: one.meant,
                      sounds: [],
                      mistaken: one.heard ? [one.heard] : [],
                    })
                  }
                >
                  {t.words.take}
                </button>
                <button
                  type="button"
                  className="plain text-sm"
                  onClick={() => decline.mutate({ heard: one.heard, meant: one.meant })}
                >
                  {t.words.decline}
                </button>
              </li>
            ))}
          </ul>
        </section>
      )}
      <section aria-label={t.words.listed} className="mt-6">
        <h2 className="mb-1 text-lg">
          {t.words.listed} <span className="text-sm text-faded">{terms.length || ""}</span>
        </h2>
        {terms.length === 0 && <p className="font-serif text-faded italic">{t.words.none}</p>}
        <ul>
          {terms.map((one) => (
            <li
              key={one.id}
              className="grid grid-cols-[1fr_auto] items-baseline gap-x-4 border-b border-rule py-2 sm:grid-cols-[12rem_1fr_auto]"
            >
              <span className="font-serif">{one.text}</span>
              <span className="text-sm text-faded max-sm:col-span-2 max-sm:row-start-2">
                {[
                  one.sounds?.length ? t.words.soundsLike({ list: one.sounds.join(", ") }) : "",
                  one.mistaken?.length
                    ? t.words.mistakenFor({ list: one.mistaken.join(", ") })
                    : "",
                ]
                  .filter(Boolean)
                  .join(" · ")}
              </span>
              <span className="flex gap-2">
                <button
                  type="button"
                  className="plain text-sm"
                  aria-label={t.words.changeOf({ word: one.text })}
                  onClick={() =>
                    setTerm({
                      text: one.text,
                      sounds: one.sounds?.join(", ") ?? "",
                      mistaken: one.mistaken?.join(", ") ?? "",
                    })
                  }
                >
                  {t.words.change}
                </button>
                <button
                  type="button"
                  className="plain text-sm"
                  aria-label={t.words.removeOf({ word: one.text })}
                  onClick={() => take(one)}
                >
                  {t.words.remove}
                </button>
              </span>
            </li>
          ))}
        </ul>
      </section>
    </div>
  );
}
