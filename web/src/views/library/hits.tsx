import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { SmallRain } from "../../parts/rain";
import { clock, showDay } from "../../parts/time";
import { t } from "../../texts";

/** A meeting with the best of what was found in it; where that is said, its strip shows. */
export function Hits({ found, words }: { found: Schemas["HitsOut"]; words: string }) {
  const { meeting, count, hits } = found;
  const to = (line: number | null, hear = false) => {
    const asked = new URLSearchParams({
      ...(line !== null && { line: String(line) }),
      find: words,
      ...(hear && { hear: "1" }),
    });
    return `/meetings/${meeting.id}?${asked}`;
  };
  const said = hits.find((hit) => hit.line !== null);
  return (
    <article className="sheet mb-3 px-4 py-3">
      <div className="flex items-start gap-4">
        <div className="min-w-0 grow">
          <h2 className="text-base">
            <Link to={to(said?.line ?? null)} className="underline-offset-4 hover:underline">
              {meeting.title}
            </Link>
          </h2>
          <p className="text-sm text-faded">
            {showDay(meeting.started_at)} · {t.library.count({ n: count })}
            {meeting.people.length > 0 && ` · ${meeting.people.join(", ")}`}
          </p>
        </div>
        {meeting.duration > 0 && (
          <div className="relative w-44 shrink-0 max-sm:hidden">
            <SmallRain strip={meeting.strip} />
            {hits
              .filter((hit) => hit.start !== null)
              .map((hit, index) => (
                <span
                  key={index}
                  aria-hidden
                  className="absolute inset-y-0 w-0.5 bg-brass"
                  style={{ left: `${Math.min(100, (100 * hit.start!) / meeting.duration)}%` }}
                />
              ))}
          </div>
        )}
      </div>
      <ul className="mt-1">
        {hits.map((hit, index) => (
          <li
            key={index}
            className="grid grid-cols-[6.5rem_1fr_auto] items-baseline gap-x-3 py-1.5 max-sm:grid-cols-[4rem_1fr_auto]"
          >
            <span className="text-sm text-faded">
              {hit.field === "line" ? clock(hit.start ?? 0) : t.library.fields[hit.field]}
            </span>
            <Link
              to={to(hit.line)}
              className="font-serif text-sm underline-offset-4 hover:underline"
            >
              {hit.who && <span className="text-faded italic">{hit.who}: </span>}
              {hit.parts.map((part, at) =>
                part.hit ? (
                  <mark key={at} className="bg-glow text-ink">
                    {part.text}
                  </mark>
                ) : (
                  part.text
                ),
              )}
            </Link>
            {meeting.playable && hit.line !== null && (
              <Link to={to(hit.line, true)} className="cite">
                {t.library.hear}
              </Link>
            )}
          </li>
        ))}
      </ul>
    </article>
  );
}
