import { useEffect, useRef, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { failed, type Schemas } from "../../api/client";
import { useLibrary, useSearch } from "../../api/hooks";
import { MeetingRow } from "../../parts/row";
import { Empty, Trouble, Wait } from "../../parts/states";
import { clock, showDay, weekOf } from "../../parts/time";
import { t } from "../../texts";

function Hits({ hits, words }: { hits: Schemas["HitsOut"]; words: string }) {
  const { meeting, count, lines } = hits;
  const to = (line: number, hear = false) =>
    `/meetings/${meeting.id}?line=${line}&find=${encodeURIComponent(words)}${hear ? "&hear=1" : ""}`;
  return (
    <article className="sheet mb-3 px-4 py-3">
      <h2 className="flex items-baseline justify-between gap-4 text-base">
        <Link to={to(lines[0]?.line ?? 1)} className="hover:underline underline-offset-4">
          {meeting.title}
        </Link>
        <span className="font-sans text-sm font-normal whitespace-nowrap text-faded">
          {showDay(meeting.started_at)} · {t.library.count({ n: count })}
        </span>
      </h2>
      <ul className="mt-1">
        {lines.map((line) => (
          <li
            key={line.line}
            className="grid grid-cols-[3.5rem_1fr_auto] items-baseline gap-x-3 py-1.5"
          >
            <span className="text-sm text-faded">{clock(line.start)}</span>
            <Link
              to={to(line.line)}
              className="font-serif text-sm hover:underline underline-offset-4"
            >
              <span className="text-faded italic">{line.speaker}: </span>
              {line.parts.map((part, index) =>
                part.hit ? (
                  <mark key={index} className="bg-glow text-ink">
                    {part.text}
                  </mark>
                ) : (
                  part.text
                ),
              )}
            </Link>
            {meeting.playable && (
              <Link to={to(line.line, true)} className="cite">
                {t.library.hear}
              </Link>
            )}
          </li>
        ))}
      </ul>
    </article>
  );
}

function Weeks() {
  const library = useLibrary();
  if (library.isPending) return <Wait />;
  if (failed(library))
    return <Trouble error={library.error} again={() => void library.refetch()} />;
  const weeks = new Map<number, { heading: string; rows: Schemas["RowOut"][] }>();
  for (const row of library.data.pages.flatMap((page) => page.rows)) {
    const { key, heading } = weekOf(row.started_at);
    const week = weeks.get(key) ?? { heading, rows: [] };
    week.rows.push(row);
    weeks.set(key, week);
  }
  if (!weeks.size) return <Empty>{t.library.empty}</Empty>;
  return (
    <>
      {[...weeks].map(([key, { heading, rows }]) => (
        <section key={key} className="mb-6">
          <h2 className="mb-1.5 text-sm text-faded italic">{heading}</h2>
          <div className="sheet px-2">
            {rows.map((meeting) => (
              <MeetingRow key={meeting.id} meeting={meeting} />
            ))}
          </div>
        </section>
      ))}
      {library.hasNextPage && (
        <button
          type="button"
          className="press"
          disabled={library.isFetchingNextPage}
          onClick={() => void library.fetchNextPage()}
        >
          {t.library.more}
        </button>
      )}
    </>
  );
}

export function Library() {
  const [params, setParams] = useSearchParams();
  const words = params.get("q") ?? "";
  const [typed, setTyped] = useState(words);
  const field = useRef<HTMLInputElement>(null);
  const found = useSearch(words);
  useEffect(() => setTyped(words), [words]);
  useEffect(() => {
    if (params.has("find")) field.current?.focus();
  }, [params]);
  // The address follows what is typed, a moment behind, so that a search can be sent to a colleague.
  useEffect(() => {
    if (typed.trim() === words) return;
    const later = setTimeout(
      () => setParams(typed.trim() ? { q: typed.trim() } : {}, { replace: true }),
      250,
    );
    return () => clearTimeout(later);
  }, [typed, words, setParams]);
  return (
    <div className="mx-auto w-full max-w-[70rem] px-4 py-8 sm:px-6">
      <div className="flex flex-wrap items-baseline gap-x-6">
        <h1 className="text-2xl">{t.library.title}</h1>
        <Link to="/excerpts" className="cite">
          {t.passages.excerpts}
        </Link>
      </div>
      <form
        role="search"
        className="my-5 flex gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          setParams(typed.trim() ? { q: typed.trim() } : {});
        }}
      >
        <input
          ref={field}
          type="search"
          aria-label={t.library.search}
          placeholder={t.library.search}
          className="field"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
        />
        {words && (
          <button
            type="button"
            className="press whitespace-nowrap"
            onClick={() => {
              setTyped("");
              setParams({});
            }}
          >
            {t.library.all}
          </button>
        )}
      </form>
      {!words ? (
        <Weeks />
      ) : failed(found) ? (
        <Trouble error={found.error} />
      ) : !found.data ? (
        <Wait />
      ) : (
        <>
          <p role="status" className="mb-3 text-faded">
            {found.data.meetings.length
              ? t.library.hits({ lines: found.data.lines, meetings: found.data.meetings.length })
              : t.library.noHits({ words: found.data.query })}
          </p>
          {found.data.meetings.map((hits) => (
            <Hits key={hits.meeting.id} hits={hits} words={words} />
          ))}
        </>
      )}
    </div>
  );
}
