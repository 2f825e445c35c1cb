import { Link } from "react-router";
import { failed } from "../../api/client";
import { useExcerpts, useSequences } from "../../api/hooks";
import { Empty, Trouble, Wait } from "../../parts/states";
import { clock, showDay } from "../../parts/time";
import { t } from "../../texts";

/** All excerpts one may hear, and the sequences. */
export function Excerpts() {
  return (
    <div className="mx-auto grid w-full max-w-[70rem] items-start gap-x-10 gap-y-6 px-4 py-8 sm:px-6 lg:grid-cols-[minmax(0,1fr)_22rem]">
      <h1 className="text-2xl lg:col-span-2">{t.passages.excerpts}</h1>
      <Cut />
      <section aria-labelledby="sequences">
        <h2 id="sequences" className="mb-2 text-base">
          {t.passages.sequences}
        </h2>
        <Sequences />
      </section>
    </div>
  );
}

function Cut() {
  const excerpts = useExcerpts();
  if (excerpts.isPending) return <Wait />;
  if (failed(excerpts))
    return <Trouble error={excerpts.error} again={() => void excerpts.refetch()} />;
  if (!excerpts.data.length)
    return (
      <div className="sheet px-4">
        <Empty>{t.passages.noExcerpts}</Empty>
      </div>
    );
  return (
    <ul className="sheet px-4">
      {excerpts.data.map((one) => (
        <li key={one.id} className="border-b border-rule py-2.5 last:border-0">
          <Link
            to={`/excerpts/${one.id}`}
            className="grid grid-cols-[1fr_auto] gap-x-4 underline-offset-4 hover:underline"
          >
            <span className="font-serif">{one.title}</span>
            <span className="text-sm text-faded">{clock(one.length)}</span>
            <span className="text-sm text-faded">
              {t.passages.by({ who: one.by, day: showDay(one.at) })}
              {one.meeting_title && ` · ${one.meeting_title}`}
            </span>
            <span className="text-right text-sm text-faded">{t.passages.seenBy[one.seen]}</span>
          </Link>
        </li>
      ))}
    </ul>
  );
}

function Sequences() {
  const sequences = useSequences();
  if (sequences.isPending) return <Wait />;
  if (failed(sequences)) return <Trouble error={sequences.error} />;
  if (!sequences.data.length)
    return (
      <div className="sheet px-4">
        <Empty>{t.passages.noSequences}</Empty>
      </div>
    );
  return (
    <ul className="sheet px-4">
      {sequences.data.map((sequence) => (
        <li key={sequence.id} className="border-b border-rule py-2.5 last:border-0">
          <Link to={`/sequences/${sequence.id}`} className="underline-offset-4 hover:underline">
            <span className="block font-serif">{sequence.title}</span>
            <span className="block text-sm text-faded">
              {t.passages.inSequence({ n: sequence.excerpts.length, time: clock(sequence.length) })}{" "}
              · {t.passages.madeBy({ who: sequence.by })}
            </span>
          </Link>
        </li>
      ))}
    </ul>
  );
}
