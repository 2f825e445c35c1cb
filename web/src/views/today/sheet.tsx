import { Link, useSearchParams } from "react-router";
import { failed, type Schemas } from "../../api/client";
import { useDay, useMe } from "../../api/hooks";
import { may } from "../../api/rights";
import { Empty, Trouble } from "../../parts/states";
import { dayAfter, dayOf, longDate, showDate, showLeft, showTime } from "../../parts/time";
import { t } from "../../texts";
import { ClerkLine } from "../clerk/line";

type Entry = Schemas["EntryOut"];

const NAMES = 4;
const SOON = 2 * 3600_000;

/** The meetings of a day, planned and held; the day is in the address. */
export function DaySheet() {
  const [params] = useSearchParams();
  const today = dayOf(new Date());
  const asked = params.get("day") ?? "";
  const on = /^\d{4}-\d{2}-\d{2}$/u.test(asked) && !isNaN(Date.parse(asked)) ? asked : today;
  const sheet = useDay(on);
  const me = useMe().data;
  const adds = me !== undefined && may(me, "add");
  return (
    <section aria-labelledby="sheet">
      <div className="mb-2 flex flex-wrap items-baseline gap-x-3 gap-y-1">
        <h2 id="sheet" className="text-base">
          {longDate(on)}
        </h2>
        <span className="grow text-sm text-faded">{on === today && t.day.today}</span>
        <Days on={on} today={today} />
      </div>
      {failed(sheet) ? (
        <Trouble error={sheet.error} again={() => void sheet.refetch()} />
      ) : (
        sheet.data && (
          <div className={`sheet px-4 ${sheet.isPlaceholderData ? "opacity-60" : ""}`}>
            {sheet.data.troubles.length > 0 && (
              <p role="status" className="border-b border-rule py-2 text-sm text-clay">
                {t.day.trouble({ names: sheet.data.troubles.join(", ") })}{" "}
                <Link to="/account#calendars" className="underline underline-offset-4">
                  {t.day.look}
                </Link>
              </p>
            )}
            {sheet.data.entries.length === 0 && sheet.data.calendars > 0 && (
              <Empty>{t.day.nothing}</Empty>
            )}
            <ol>
              {sheet.data.entries.map((entry) => (
                <Row key={entry.planned ?? entry.meeting?.id} entry={entry} adds={adds} />
              ))}
            </ol>
            {sheet.data.calendars === 0 && adds && (
              <div className="pb-3">
                <Empty>{t.day.none}</Empty>
                <Link to="/account#calendars" className="press">
                  {t.day.connect}
                </Link>
              </div>
            )}
            {sheet.data.calendars === 0 && !adds && sheet.data.entries.length === 0 && (
              <Empty>{t.day.nothing}</Empty>
            )}
          </div>
        )
      )}
    </section>
  );
}

/** From day to day and week to week. */
function Days({ on, today }: { on: string; today: string }) {
  const to = (by: number) => `?day=${dayAfter(on, by)}`;
  const [before, after] = [showDate(dayAfter(on, -1)), showDate(dayAfter(on, 1))];
  return (
    <nav aria-label={t.day.title} className="flex items-baseline gap-1 text-sm">
      <Link className="plain" to={to(-7)} aria-label={t.day.weekBack} title={t.day.weekBack}>
        −7
      </Link>
      <Link className="plain" to={to(-1)} aria-label={t.day.back({ day: before })}>
        {before}
      </Link>
      {on !== today && (
        <Link className="plain" to="?">
          {t.day.toToday}
        </Link>
      )}
      <Link className="plain" to={to(1)} aria-label={t.day.on({ day: after })}>
        {after}
      </Link>
      <Link className="plain" to={to(7)} aria-label={t.day.weekOn} title={t.day.weekOn}>
        +7
      </Link>
    </nav>
  );
}

function Row({ entry, adds }: { entry: Entry; adds: boolean }) {
  const [start, end] = [Date.parse(entry.start), Date.parse(entry.end)];
  const now = Date.now();
  const running = !entry.all_day && start <= now && now < end && !entry.called_off;
  const off = entry.called_off || entry.answer === "declined";
  const dim = off || (end < now && entry.meeting === null);
  return (
    <li
      className={`grid grid-cols-[4.2rem_minmax(0,1fr)] gap-x-4 border-b border-rule py-2.5 last:border-0 sm:grid-cols-[4.2rem_minmax(0,1fr)_auto] ${running ? "-ml-4 border-l-2 border-l-brass pl-3.5" : ""}`}
    >
      <p className={`text-right font-serif leading-snug ${dim ? "text-faded" : ""}`}>
        {entry.all_day ? (
          <span className="text-sm text-faded">{t.day.wholeDay}</span>
        ) : (
          <>
            {showTime(entry.start)}
            <span className="block text-sm text-faded">{showTime(entry.end)}</span>
          </>
        )}
      </p>
      <div className="min-w-0">
        <p className={`font-serif ${dim ? "text-faded" : ""} ${off ? "line-through" : ""}`}>
          {entry.planned !== null && end > now ? (
            <Link className="hover:underline underline-offset-4" to={`/planned/${entry.planned}`}>
              {entry.title || t.day.untitled}
            </Link>
          ) : (
            entry.title || t.day.untitled
          )}
        </p>
        <p className="text-sm text-faded">
          {[...remarks(entry, running, start - now), names(entry)].filter(Boolean).join(" · ")}
          {entry.overlaps && <span className="text-clay"> · {t.day.overlaps}</span>}
        </p>
        {entry.clerk && (end > now || entry.clerk.visit) && (
          <ClerkLine entry={entry} clerk={entry.clerk} />
        )}
        {entry.planned !== null && (
          <details className="mt-0.5 text-sm">
            <summary
              className="plain inline-block cursor-pointer px-0"
              aria-label={t.day.detailsOf({ title: entry.title || t.day.untitled })}
            >
              {t.day.details}
            </summary>
            <Details entry={entry} />
          </details>
        )}
      </div>
      <Acts entry={entry} adds={adds} open={!entry.called_off && end > now} />
    </li>
  );
}

function remarks(entry: Entry, running: boolean, ahead: number): string[] {
  const told = [];
  if (entry.called_off) told.push(t.day.calledOff);
  else if (running) told.push(t.day.now);
  else if (!entry.all_day && ahead > 0 && ahead < SOON)
    told.push(t.day.soon({ time: showLeft(ahead / 1000) }));
  if (entry.answer === "declined") told.push(t.day.declined);
  if (entry.tentative) told.push(t.day.tentative);
  if (entry.private) told.push(t.day.private);
  return told;
}

function names(entry: Entry): string {
  const all = entry.people.map((one) => one.name);
  const rest = all.length - NAMES;
  return [...all.slice(0, NAMES), ...(rest > 0 ? [t.day.more({ n: rest })] : [])].join(", ");
}

/** Who is asked, where it is, what the invitation says. */
export function Details({ entry }: { entry: Entry }) {
  return (
    <div className="text-sm">
      {entry.people.length > 0 && (
        <ul className="mt-1 grid gap-x-6 sm:grid-cols-2">
          {entry.people.map((one) => (
            <li key={one.address || one.name}>
              {one.name}{" "}
              <span className="text-faded">
                {one.called ? t.day.called : t.day.answers[one.answer]}
              </span>
            </li>
          ))}
        </ul>
      )}
      {entry.place && <p className="mt-1">{entry.place}</p>}
      {entry.link && (
        <p className="mt-1 text-faded">
          {t.day.callAt({ host: entry.link.host, why: entry.link.why })}{" "}
          {entry.link.passcode && (
            <span className="text-ink">{t.day.passcode({ code: entry.link.passcode })}</span>
          )}
        </p>
      )}
      {entry.text && (
        <p className="mt-1 max-h-48 overflow-y-auto whitespace-pre-line break-words font-serif">
          {entry.text}
        </p>
      )}
      <p className="mt-1 text-faded">{t.day.from({ name: entry.calendar })}</p>
    </div>
  );
}

const STATES = {
  capturing: t.day.beingCaptured,
  working: t.day.beingWorked,
  failed: t.day.failed,
  ready: t.day.read,
};

function Acts({ entry, adds, open }: { entry: Entry; adds: boolean; open: boolean }) {
  return (
    <p className="flex flex-wrap items-start justify-end gap-2 text-sm max-sm:col-start-2 max-sm:mt-2 max-sm:justify-start">
      {entry.link && open && (
        <a className="press py-1" href={entry.link.address} target="_blank" rel="noreferrer">
          {t.day.enter}
        </a>
      )}
      {entry.meeting ? (
        <Link className="press py-1" to={`/meetings/${entry.meeting.id}`}>
          {STATES[entry.meeting.state]}
        </Link>
      ) : (
        open &&
        adds &&
        !entry.all_day && (
          <Link className="press py-1" to={`/capture?planned=${entry.planned}`}>
            {t.day.capture}
          </Link>
        )
      )}
    </p>
  );
}
