import { useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import { client, failed, Problem, the, type Schemas } from "../../api/client";
import { keys, useChange, useExcerpt, useMembers, useSequences } from "../../api/hooks";
import { copyText } from "../../parts/copy";
import { Field } from "../../parts/field";
import { useSay } from "../../parts/sayings";
import { Trouble, Wait } from "../../parts/states";
import { clock, showDay } from "../../parts/time";
import { t } from "../../texts";
import { SendElsewhere } from "../connections/send";
import { GiveLink } from "../links/give";
import { usePlayer, usePlaying } from "../spread/sound/player";

type Excerpt = Schemas["OneExcerptOut"];

/** An excerpt by itself: to hear, to read, to share. Nothing else of its meeting is here. */
export function ExcerptPage() {
  const { id = "" } = useParams();
  const excerpt = useExcerpt(id);
  const [giving, setGiving] = useState(false);
  const [sending, setSending] = useState(false);
  const player = usePlayer(excerpt.data?.playable ? `/api/excerpts/${id}/sound` : null);
  const playing = usePlaying(player, (one) => !one.audio.paused, false);
  const seconds = usePlaying(player, (one) => one.time, 0);
  useEffect(() => {
    document.title = excerpt.data ? `${excerpt.data.title} · ${t.name}` : t.name;
    return () => {
      document.title = t.name;
    };
  }, [excerpt.data]);
  if (excerpt.isPending) return <Wait />;
  if (failed(excerpt))
    return excerpt.error instanceof Problem && excerpt.error.status === 404 ? (
      <div className="p-8">
        <p>{t.passages.noExcerpt}</p>
        <Link to="/excerpts" className="press mt-4">
          {t.passages.excerpts}
        </Link>
      </div>
    ) : (
      <Trouble error={excerpt.error} again={() => void excerpt.refetch()} />
    );
  const it = excerpt.data;
  return (
    <div className="mx-auto w-full max-w-[48rem] px-4 py-8 sm:px-6">
      <Link to="/excerpts" className="cite">
        {t.passages.excerpts}
      </Link>
      <h1 className="mt-1 text-2xl">{it.title}</h1>
      <p className="text-sm text-faded">
        {t.passages.by({ who: it.by, day: showDay(it.at) })} · {clock(it.length)}
        {it.meeting && (
          <>
            {" "}
            · {t.passages.from}{" "}
            <Link
              className="underline underline-offset-4"
              to={`/meetings/${it.meeting}?at=${it.start}`}
            >
              {it.meeting_title}
            </Link>
          </>
        )}
      </p>
      <article className="sheet mt-5 px-6 py-5">
        {player ? (
          <p className="mb-4 flex items-center gap-4">
            <button
              type="button"
              className="press press-main min-w-20 justify-center"
              onClick={() => player.toggle()}
            >
              {playing ? t.passages.pause : t.passages.play}
            </button>
            <span className="text-sm text-faded">
              {clock(seconds)} / {clock(it.length)}
            </span>
          </p>
        ) : (
          <p className="mb-4 text-sm text-faded">{t.passages.silent}</p>
        )}
        {it.said.map((said) => (
          <p key={said.start} className="mb-3 font-serif leading-relaxed">
            <button
              type="button"
              className="cite mr-2 not-italic"
              disabled={!player}
              onClick={() => {
                player?.seek(said.start);
                void player?.play();
              }}
            >
              {clock(said.start)}
            </button>
            <span className="text-faded italic">{said.speaker}: </span>
            <span
              className={playing && said.start <= seconds && seconds < said.end ? "bg-glow/60" : ""}
            >
              {said.text}
            </span>
          </p>
        ))}
      </article>
      {it.meeting && (
        <p className="mt-4 flex flex-wrap gap-3">
          <button type="button" className="press" onClick={() => setGiving(true)}>
            {t.links.give}
          </button>
          <button type="button" className="press" onClick={() => setSending(true)}>
            {t.connections.sendSomewhere}…
          </button>
        </p>
      )}
      {sending && it.meeting && (
        <SendElsewhere
          meeting={it.meeting}
          thing={{ subject: "excerpt", key: it.id }}
          close={() => setSending(false)}
        />
      )}
      {giving && (
        <GiveLink
          of={it.id}
          scopes={["excerpt"]}
          heard={it.playable}
          close={() => setGiving(false)}
        />
      )}
      {it.mine && <Sharing excerpt={it} />}
    </div>
  );
}

function Sharing({ excerpt }: { excerpt: Excerpt }) {
  const say = useSay();
  const people = useMembers().data?.map((one) => one.name || one.email) ?? [];
  const sequences = useSequences();
  const [seen, setSeen] = useState(excerpt.seen);
  const [chosen, setChosen] = useState<string[]>(excerpt.chosen);
  const [title, setTitle] = useState("");
  const stale = [keys.excerpt(excerpt.id), keys.excerpts, keys.sequences] as const;
  const put = useChange(
    (body: Partial<Schemas["ExcerptPatch"]>) =>
      the(
        client.PATCH("/api/excerpts/{excerpt_id}", {
          params: { path: { excerpt_id: excerpt.id } },
          body: body,
        }),
      ),
    ...stale,
  );
  const add = useChange(
    (sequence: Schemas["SequenceOut"]) =>
      the(
        client.PATCH("/api/sequences/{sequence_id}", {
          params: { path: { sequence_id: sequence.id } },
          body: { excerpts: [...sequence.excerpts.map((one) => one.id), excerpt.id] },
        }),
      ),
    ...stale,
  );
  const make = useChange(
    (name: string) =>
      the(client.POST("/api/sequences", { body: { title: name, excerpts: [excerpt.id] } })),
    ...stale,
  );
  const flip = (name: string) =>
    setChosen(chosen.includes(name) ? chosen.filter((one) => one !== name) : [...chosen, name]);
  const wrong = put.error ?? add.error ?? make.error;
  const mine = sequences.data?.filter((sequence) => sequence.mine) ?? [];
  return (
    <div className="mt-6 grid gap-6 sm:grid-cols-2">
      <section>
        <h2 className="mb-2 text-base">{t.passages.seen}</h2>
        <form
          onSubmit={(event) => {
            event.preventDefault();
            put.mutate(
              { seen: seen, chosen: seen === "chosen" ? chosen : [] },
              { onSuccess: () => say(t.passages.shared) },
            );
          }}
        >
          {(["nobody", "chosen", "workspace"] as const).map((one) => (
            <div key={one}>
              <label className="flex items-center gap-2 py-0.5">
                <input
                  type="radio"
                  name="seen"
                  className="accent-slate"
                  checked={seen === one}
                  onChange={() => setSeen(one)}
                />
                {t.passages.seenBy[one]}
              </label>
              {one === "chosen" && seen === "chosen" && (
                <fieldset className="ml-6 max-h-44 overflow-y-auto">
                  <legend className="sr-only">{t.passages.chosenNames}</legend>
                  {people
                    .filter((name) => name !== excerpt.by)
                    .map((name) => (
                      <label key={name} className="flex items-center gap-2 py-0.5 text-sm">
                        <input
                          type="checkbox"
                          className="accent-slate"
                          checked={chosen.includes(name)}
                          onChange={() => flip(name)}
                        />
                        {name}
                      </label>
                    ))}
                </fieldset>
              )}
            </div>
          ))}
          <p className="mt-3 flex flex-wrap gap-3">
            <button
              type="submit"
              className="press press-main"
              disabled={put.isPending || (seen === "chosen" && !chosen.length)}
            >
              {t.passages.share}
            </button>
            <button
              type="button"
              className="press"
              onClick={() =>
                void copyText(`${location.origin}/excerpts/${excerpt.id}`).then(() =>
                  say(t.passages.copied),
                )
              }
            >
              {t.passages.copyLink}
            </button>
          </p>
        </form>
      </section>
      <section>
        <h2 className="mb-2 text-base">{t.passages.toSequence}</h2>
        <ul>
          {mine.map((sequence) => (
            <li key={sequence.id}>
              <button
                type="button"
                className="plain"
                onClick={() =>
                  add.mutate(sequence, {
                    onSuccess: () => say(t.passages.added({ title: sequence.title })),
                  })
                }
              >
                {sequence.title}{" "}
                <span className="text-sm text-faded">
                  {t.passages.inSequence({
                    n: sequence.excerpts.length,
                    time: clock(sequence.length),
                  })}
                </span>
              </button>
            </li>
          ))}
        </ul>
        <form
          className="mt-2 flex items-end gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            make.mutate(title, {
              onSuccess: (sequence) => {
                setTitle("");
                say(t.passages.added({ title: sequence.title }));
              },
            });
          }}
        >
          <Field label={t.passages.sequenceTitle} htmlFor="sequence-title">
            <input
              id="sequence-title"
              className="field"
              maxLength={200}
              value={title}
              onChange={(event) => setTitle(event.target.value)}
            />
          </Field>
          <button type="submit" className="press whitespace-nowrap" disabled={!title.trim()}>
            {t.passages.makeSequence}
          </button>
        </form>
      </section>
      <p className="sm:col-span-2">
        {wrong && (
          <span role="alert" className="mr-4 text-clay">
            {wrong.message}
          </span>
        )}
        <Remove excerpt={excerpt} put={put.mutate} />
      </p>
    </div>
  );
}

function Remove({
  excerpt,
  put,
}: {
  excerpt: Excerpt;
  put: (body: Partial<Schemas["ExcerptPatch"]>, then?: { onSuccess?: () => void }) => void;
}) {
  const say = useSay();
  return (
    <button
      type="button"
      className="plain text-clay"
      onClick={() =>
        put(
          { removed: true },
          { onSuccess: () => say(t.passages.removed, () => put({ removed: false })) },
        )
      }
      aria-label={`${t.passages.remove}: ${excerpt.title}`}
    >
      {t.passages.remove}
    </button>
  );
}
