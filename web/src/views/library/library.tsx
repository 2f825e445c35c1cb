import { useEffect, useRef, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { failed, type Schemas } from "../../api/client";
import { useLibrary, useSearch } from "../../api/hooks";
import { MeetingRow } from "../../parts/row";
import { Empty, Trouble, Wait } from "../../parts/states";
import { weekOf } from "../../parts/time";
import { t } from "../../texts";
import { Hits } from "./hits";
import { Keep, Kept } from "./kept";
import { Narrow } from "./narrow";
import { isNarrow, wantedIn, withWanted, type Wanted } from "../../parts/wanted";

function Weeks({ wanted }: { wanted: Wanted }) {
  const library = useLibrary(wanted);
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
  if (!weeks.size) return <Empty>{isNarrow(wanted) ? t.library.none : t.library.empty}</Empty>;
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

const ORDERS = ["best", "newest", "oldest"] as const;
const MOST = 50; // meetings that a search gives at the most

/** What came of a search, in words. */
function saidOf(found: Schemas["SearchOut"], narrow: boolean): string {
  const { meetings, places, query: words } = found;
  if (!meetings.length)
    return narrow ? t.library.noHitsHere({ words }) : t.library.noHits({ words });
  return found.alike
    ? t.library.alike({ words })
    : t.library.hits({ places, meetings: meetings.length });
}

export function Library() {
  const [params, setParams] = useSearchParams();
  const words = params.get("q") ?? "";
  const [typed, setTyped] = useState(words);
  const field = useRef<HTMLInputElement>(null);
  const wanted = wantedIn(params);
  const order = ORDERS.find((one) => one === params.get("order")) ?? "best";
  const found = useSearch(words, wanted, order);
  const put = (next: URLSearchParams) => setParams(next, { replace: true });
  const set = (name: string, value: string) => {
    const next = new URLSearchParams(params);
    next.delete("find");
    if (value) next.set(name, value);
    else next.delete(name);
    return next;
  };
  useEffect(() => setTyped(words), [words]);
  useEffect(() => {
    if (params.has("find")) field.current?.focus();
  }, [params]);
  // The address follows what is typed, a moment behind, so that a search can be sent to a colleague.
  useEffect(() => {
    if (typed.trim() === words) return;
    const later = setTimeout(
      () =>
        setParams(
          (before) => {
            const next = new URLSearchParams(before);
            next.delete("find");
            if (typed.trim()) next.set("q", typed.trim());
            else next.delete("q");
            return next;
          },
          { replace: true },
        ),
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
        <Link to="/shelves" className="cite">
          {t.shelves.title}
        </Link>
        <Link to={`/ask?${withWanted(new URLSearchParams(), wanted)}`} className="cite">
          {t.asking.link}
        </Link>
        <Link to="/library/taken-out" className="cite">
          {t.library.takenOut}
        </Link>
      </div>
      <form
        role="search"
        className="my-5 flex gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          setParams(set("q", typed.trim()));
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
      {!words && <Kept />}
      <Narrow wanted={wanted} set={(next) => put(withWanted(params, next))}>
        {(words || isNarrow(wanted)) && <Keep words={words} wanted={wanted} />}
      </Narrow>
      {!words ? (
        <Weeks wanted={wanted} />
      ) : failed(found) ? (
        <Trouble error={found.error} />
      ) : !found.data ? (
        <Wait />
      ) : (
        <>
          <div className="mb-3 flex flex-wrap items-baseline justify-between gap-x-5 gap-y-2">
            <div className="flex flex-wrap items-baseline gap-x-3 text-faded">
              <p role="status">{saidOf(found.data, isNarrow(wanted))}</p>
              <Link
                to={`/ask?${withWanted(new URLSearchParams({ q: words }), wanted)}`}
                className="cite"
              >
                {t.asking.instead}
              </Link>
            </div>
            {found.data.meetings.length > 1 && (
              <label className="flex items-baseline gap-2 text-sm text-faded">
                {t.library.order}
                <select
                  className="field w-auto py-1"
                  value={order}
                  onChange={(event) =>
                    put(set("order", event.target.value === "best" ? "" : event.target.value))
                  }
                >
                  {ORDERS.map((one) => (
                    <option key={one} value={one}>
                      {t.library.orders[one]}
                    </option>
                  ))}
                </select>
              </label>
            )}
          </div>
          {found.data.meetings.map((one) => (
            <Hits key={one.meeting.id} found={one} words={words} />
          ))}
          {found.data.meetings.length >= MOST && <p className="text-faded">{t.library.most}</p>}
        </>
      )}
    </div>
  );
}
