import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { showDay } from "../../parts/time";
import { t } from "../../texts";

/** The meetings of a series where they fell, from the first of them to the last; taller, the longer they took. */
export function Days({ meetings }: { meetings: Schemas["RowOut"][] }) {
  const times = meetings.map((one) => new Date(one.started_at).getTime());
  const first = Math.min(...times);
  const span = Math.max(...times) - first;
  if (!span) return null;
  const longest = Math.max(...meetings.map((one) => one.duration), 1);
  return (
    <section aria-label={t.library.overTime} className="mt-6">
      <ol className="relative mx-1.5 h-12 border-b border-edge">
        {meetings.map((one, index) => (
          <li
            key={one.id}
            className="absolute bottom-0 -translate-x-1/2"
            style={{ left: `${(100 * ((times[index] ?? first) - first)) / span}%` }}
          >
            <Link
              to={`/meetings/${one.id}`}
              title={`${one.title}, ${showDay(one.started_at)}`}
              className="block w-3 bg-slate hover:bg-clay focus-visible:bg-clay"
              style={{ height: `${10 + (34 * one.duration) / longest}px` }}
            >
              <span className="sr-only">{`${one.title}, ${showDay(one.started_at)}`}</span>
            </Link>
          </li>
        ))}
      </ol>
      <p className="mt-1 flex justify-between text-xs text-faded">
        <span>{showDay(new Date(first).toISOString())}</span>
        <span>{showDay(new Date(first + span).toISOString())}</span>
      </p>
    </section>
  );
}
