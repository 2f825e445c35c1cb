import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { client, failed, Problem, the, type Schemas } from "../../api/client";
import { keys, useChange, useExcerpt } from "../../api/hooks";
import { useSay } from "../../parts/sayings";
import { Empty, Trouble, Wait, Wrong } from "../../parts/states";
import { clock } from "../../parts/time";
import { t } from "../../texts";
import { GiveLink } from "../links/give";
import { usePlayer } from "../spread/sound/player";

/** A sequence: excerpts of several meetings, played in a row. */
export function SequencePage() {
  const { id = "" } = useParams();
  const to = useNavigate();
  const say = useSay();
  const sequence = useQuery({
    queryKey: [...keys.sequences, id],
    queryFn: () =>
      the(
        client.GET("/api/sequences/{sequence_id}", {
          params: { path: { sequence_id: Number(id) } },
        }),
      ),
  });
  const put = useChange(
    (body: Schemas["SequencePatch"]) =>
      the(
        client.PATCH("/api/sequences/{sequence_id}", {
          params: { path: { sequence_id: Number(id) } },
          body,
        }),
      ),
    keys.sequences,
  );
  const [at, setAt] = useState<number | null>(null);
  const [giving, setGiving] = useState(false);
  if (sequence.isPending) return <Wait />;
  if (failed(sequence))
    return sequence.error instanceof Problem && sequence.error.status === 404 ? (
      <div className="p-8">
        <p>{t.passages.noSequence}</p>
        <Link to="/excerpts" className="press mt-4">
          {t.passages.excerpts}
        </Link>
      </div>
    ) : (
      <Trouble error={sequence.error} again={() => void sequence.refetch()} />
    );
  const { title, by, mine, excerpts, length } = sequence.data;
  const heard = excerpts.flatMap((one, index) => (one.playable ? [index] : []));
  const order = (keysInOrder: string[]) => put.mutate({ excerpts: keysInOrder });
  const move = (from: number, by_: number) => {
    const all = excerpts.map((one) => one.id);
    const [one] = all.splice(from, 1);
    all.splice(from + by_, 0, one!);
    order(all);
  };
  const next = () => setAt((now) => heard.find((index) => now !== null && index > now) ?? null);
  return (
    <div className="mx-auto w-full max-w-[48rem] px-4 py-8 sm:px-6">
      <Link to="/excerpts" className="cite">
        {t.passages.excerpts}
      </Link>
      <h1 className="mt-1 text-2xl">{title}</h1>
      <p className="text-sm text-faded">
        {t.passages.madeBy({ who: by })} ·{" "}
        {t.passages.inSequence({ n: excerpts.length, time: clock(length) })}
      </p>
      {heard.length > 0 && (
        <p className="mt-4">
          <button
            type="button"
            className="press press-main"
            onClick={() => setAt(at === null ? heard[0]! : null)}
          >
            {at === null ? t.passages.playAll : t.passages.stop}
          </button>
        </p>
      )}
      {at !== null && excerpts[at] && (
        <Playing key={excerpts[at].id} id={excerpts[at].id} next={next} />
      )}
      {excerpts.length === 0 ? (
        <div className="sheet mt-4 px-4">
          <Empty>{t.passages.emptySequence}</Empty>
        </div>
      ) : (
        <ol className="sheet mt-4 px-4">
          {excerpts.map((one, index) => (
            <li
              key={one.id}
              aria-current={at === index ? "true" : undefined}
              className={`grid grid-cols-[2rem_1fr_auto] items-baseline gap-x-2 border-b border-rule py-2.5 last:border-0 ${at === index ? "bg-glow/50" : ""}`}
            >
              <span className="text-sm text-faded">{index + 1}</span>
              <Link to={`/excerpts/${one.id}`} className="underline-offset-4 hover:underline">
                <span className="font-serif">{one.title}</span>{" "}
                <span className="text-sm text-faded">
                  {clock(one.length)}
                  {one.meeting_title && ` · ${one.meeting_title}`}
                </span>
              </Link>
              {mine && (
                <span className="flex gap-2 text-sm">
                  <button
                    type="button"
                    className="plain px-1"
                    aria-label={`${t.passages.earlier}: ${one.title}`}
                    title={t.passages.earlier}
                    disabled={index === 0 || put.isPending}
                    onClick={() => move(index, -1)}
                  >
                    ↑
                  </button>
                  <button
                    type="button"
                    className="plain px-1"
                    aria-label={`${t.passages.later}: ${one.title}`}
                    title={t.passages.later}
                    disabled={index === excerpts.length - 1 || put.isPending}
                    onClick={() => move(index, 1)}
                  >
                    ↓
                  </button>
                  <button
                    type="button"
                    className="plain px-1"
                    aria-label={`${t.passages.out}: ${one.title}`}
                    title={t.passages.out}
                    onClick={() =>
                      order(excerpts.filter((other) => other !== one).map((other) => other.id))
                    }
                  >
                    ×
                  </button>
                </span>
              )}
            </li>
          ))}
        </ol>
      )}
      <Wrong error={put.error} className="mt-3" />
      {mine && excerpts.length > 0 && (
        <p className="mt-4">
          <button type="button" className="press" onClick={() => setGiving(true)}>
            {t.links.give}
          </button>
        </p>
      )}
      {giving && (
        <GiveLink
          of={String(sequence.data.id)}
          scopes={["sequence"]}
          heard={excerpts.some((one) => one.playable)}
          close={() => setGiving(false)}
        />
      )}
      {mine && (
        <p className="mt-4">
          <button
            type="button"
            className="plain text-clay"
            onClick={() =>
              put.mutate(
                { removed: true },
                {
                  onSuccess: () => {
                    void to("/excerpts");
                    say(t.passages.sequenceRemoved, () => put.mutate({ removed: false }));
                  },
                },
              )
            }
          >
            {t.passages.removeSequence}
          </button>
        </p>
      )}
    </div>
  );
}

/** One of the sequence being played, with what is said in it; then the next. */
function Playing({ id, next }: { id: string; next: () => void }) {
  const excerpt = useExcerpt(id);
  const player = usePlayer(`/api/excerpts/${id}/sound`);
  useEffect(() => {
    if (!player) return;
    void player.play();
    player.audio.addEventListener("ended", next);
    return () => player.audio.removeEventListener("ended", next);
  }, [player]); // eslint-disable-line react-hooks/exhaustive-deps
  return (
    <div role="status" className="sheet mt-4 max-h-60 overflow-y-auto px-6 py-4">
      {excerpt.data?.said.map((said) => (
        <p key={said.start} className="mb-2 font-serif">
          <span className="text-faded italic">{said.speaker}: </span>
          {said.text}
        </p>
      ))}
    </div>
  );
}
