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
import { Pick, PickBar, type Picked } from "./picking";
import { isNarrow, wantedIn, withWanted, type Wanted } from "../../parts/wanted";

interface WeeksProps {
  wanted: Wanted;
  picked: Picked;
  pick: (picked: Picked) => void;
}

function Weeks({ wanted, picked, pick }: WeeksProps) {
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
              <Pick key={meeting.id} {...meeting} picked={picked} pick={pick}>
                <MeetingRow meeting={meeting} />
              </Pick>
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

/** What came of a search, in words. */
function saidOf(found: Schemas["SearchOut"], narrow: boolean): string {
  const { total: meetings, places, query: words } = found;
  if (!meetings) return narrow ? t.library.noHitsHere({ words }) : t.library.noHits({ words });
  if (found.alike) return t.library.alike({ words });
  return places === null ? t.library.hitsMany : t.library.hits({ places, meetings });
}

export function Library() {
  const [params, setParams] = useSearchParams();
  const words = params.get("q") ?? "";
  const [typed, setTyped] = useState(words);
  const [picked, setPicked] = useState<Picked>(null);
  const field = useRef<HTMLInputElement>(null);
  const wanted = wantedIn(params);
  const order = ORDERS.find((one) => one === params.get("order")) ?? "best";
  const found = useSearch(words, wanted, order);
  const first = found.data?.pages[0];
  const hits = found.data?.pages.flatMap((page) => page.meetings) ?? [];
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
        <Link to="/links" className="cite">
          {t.links.title}
        </Link>
        {!picked && (
          <button type="button" className="cite" onClick={() => setPicked([])}>
            {t.picking.choose}
          </button>
        )}
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
        <Weeks wanted={wanted} picked={picked} pick={setPicked} />
      ) : failed(found) ? (
        <Trouble error={found.error} />
      ) : !first ? (
        <Wait />
      ) : (
        <>
          <div className="mb-3 flex flex-wrap items-baseline justify-between gap-x-5 gap-y-2">
            <div className="flex flex-wrap items-baseline gap-x-3 text-faded">
              <p role="status">{saidOf(first, isNarrow(wanted))}</p>
              <Link
                to={`/ask?${withWanted(new URLSearchParams({ q: words }), wanted)}`}
                className="cite"
              >
                {t.asking.instead}
              </Link>
            </div>
            {hits.length > 1 && (
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
          {hits.map((one) => (
            <Pick key={one.meeting.id} {...one.meeting} picked={picked} pick={setPicked}>
              <Hits found={one} words={words} />
            </Pick>
          ))}
          {found.hasNextPage ? (
            <button
              type="button"
              className="press"
              disabled={found.isFetchingNextPage}
              onClick={() => void found.fetchNextPage()}
            >
              {t.library.further}
            </button>
          ) : (
            hits.length > 0 && !first.whole && <p className="text-faded">{t.library.most}</p>
          )}
        </>
      )}
      {picked && <PickBar picked={picked} pick={setPicked} />}
    </div>
  );
}
