import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { client, the, type Schemas } from "../../api/client";
import { keys, useChange } from "../../api/hooks";
import { Glyph } from "../../parts/glyph";
import { showDay, showLongDay, showTime } from "../../parts/time";
import { t } from "../../texts";

const SHOWN = 5; // of each

/** What meetings have brought since one last said that one had seen it; nothing where they brought nothing. */
export function News() {
  const known = useQuery({
    queryKey: keys.news,
    queryFn: () => the(client.GET("/api/news")),
  }).data;
  const seen = useChange(() => the(client.POST("/api/news/seen")), keys.news);
  if (!known) return null;
  const { since, decisions, given, missed } = known;
  if (!decisions.length && !given.length && !missed.length) return null;
  return (
    <section aria-labelledby="news" className="sheet px-4 py-3">
      <div className="flex flex-wrap items-baseline gap-x-4">
        <h2 id="news" className="text-base">
          {t.news.title}
        </h2>
        <p className="grow text-sm text-faded">
          {t.news.since({ when: `${showLongDay(since)}, ${showTime(since)}` })}
        </p>
        <button
          type="button"
          className="plain text-sm"
          disabled={seen.isPending}
          onClick={() => seen.mutate(undefined)}
        >
          {t.news.seen}
        </button>
      </div>
      <Settled title={t.news.given} kind="action" all={given} />
      <Settled title={t.news.decisions} kind="decision" all={decisions} />
      {missed.length > 0 && (
        <>
          <h3 className="mt-3 text-sm text-faded">{t.news.missed}</h3>
          <ul>
            {missed.slice(0, SHOWN).map((one) => (
              <li key={one.id} className="border-b border-rule py-1.5 last:border-0">
                <Link
                  to={`/meetings/${one.id}`}
                  className="font-serif underline-offset-4 hover:underline"
                >
                  {one.title}
                </Link>{" "}
                <span className="text-sm text-faded">
                  {[showDay(one.started_at), one.named > 0 && t.news.named({ n: one.named })]
                    .filter(Boolean)
                    .join(" · ")}
                </span>
                {one.gist.length > 0 && <p className="text-sm">{one.gist.join(" ")}</p>}
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}

interface SettledProps {
  title: string;
  kind: "action" | "decision";
  all: Schemas["NewFindingOut"][];
}

function Settled({ title, kind, all }: SettledProps) {
  if (!all.length) return null;
  return (
    <>
      <h3 className="mt-3 text-sm text-faded">{title}</h3>
      <ul>
        {all.slice(0, SHOWN).map((one) => (
          <li
            key={`${one.meeting} ${one.line} ${one.text}`}
            className="grid grid-cols-[auto_minmax(0,1fr)] items-baseline gap-x-2 border-b border-rule py-1.5 last:border-0"
          >
            <Glyph kind={kind} />
            <Link
              to={`/meetings/${one.meeting}?line=${one.line}`}
              className="underline-offset-4 hover:underline"
            >
              <span className="font-serif">{one.text}</span>{" "}
              <span className="text-sm text-faded">{one.title}</span>
            </Link>
          </li>
        ))}
      </ul>
      {all.length > SHOWN && (
        <Link to="/ledger?view=changed" className="cite text-sm">
          {t.news.more({ n: all.length - SHOWN })}
        </Link>
      )}
    </>
  );
}
