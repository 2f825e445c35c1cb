import { useState } from "react";
import { Link, useParams } from "react-router";
import { client, failed, the, type Schemas } from "../../api/client";
import { keys, useAhead, useChange, useMe } from "../../api/hooks";
import { may } from "../../api/rights";
import { Glyph } from "../../parts/glyph";
import { useSay } from "../../parts/sayings";
import { Empty, Trouble, Wait, Wrong } from "../../parts/states";
import { Sure } from "../../parts/sure";
import { clock, dayOf, longDate, showDate, showLongDay, showTime } from "../../parts/time";
import { t } from "../../texts";
import { ClerkLine } from "../clerk/line";
import { SetAgenda } from "../live/agenda";
import { Details } from "../today/sheet";

type Known = Schemas["AheadOut"];

/** A meeting before it happens: who comes, what is to be discussed, what was left open, what will become of it. */
export function Ahead() {
  const id = Number(useParams().id) || 0;
  const ahead = useAhead(id);
  const me = useMe().data;
  if (ahead.isPending) return <Wait />;
  if (failed(ahead)) return <Trouble error={ahead.error} again={() => void ahead.refetch()} />;
  const known = ahead.data;
  const { entry } = known;
  const open = !entry.called_off && Date.parse(entry.end) > Date.now();
  return (
    <div className="mx-auto w-full max-w-[84rem] px-4 py-8 sm:px-6">
      <h1 className={`text-2xl ${entry.called_off ? "line-through" : ""}`}>
        {entry.title || t.day.untitled}
      </h1>
      <p className="text-faded">
        {longDate(dayOf(new Date(entry.start)))}
        {entry.all_day
          ? ` · ${t.day.wholeDay}`
          : ` · ${showTime(entry.start)} – ${showTime(entry.end)}`}
        {entry.called_off && ` · ${t.day.calledOff}`}
        {entry.recurs && ` · ${t.ahead.recurs}`}
      </p>
      {entry.clerk && <ClerkLine entry={entry} clerk={entry.clerk} />}
      <p className="mt-3 flex flex-wrap gap-2">
        {known.meeting && (
          <Link className="press press-main" to={`/meetings/${known.meeting}`}>
            {t.ahead.open}
          </Link>
        )}
        {entry.link && open && (
          <a className="press" href={entry.link.address} target="_blank" rel="noreferrer">
            {t.day.enter}
          </a>
        )}
        {!known.meeting && open && !entry.all_day && me && may(me, "add") && (
          <Link className="press" to={`/capture?planned=${id}`}>
            {t.day.capture}
          </Link>
        )}
      </p>
      <div className="mt-6 grid items-start gap-6 lg:grid-cols-2">
        <div className="flex flex-col gap-6">
          <Prepared id={id} known={known} changes={me !== undefined && may(me, "add")} />
          <LeftOpen known={known} />
        </div>
        <div className="flex flex-col gap-6">
          <section aria-labelledby="asked" className="sheet p-5">
            <h2 id="asked" className="mb-1 text-lg">
              {t.day.details}
            </h2>
            <Details entry={entry} />
          </section>
          <section aria-labelledby="becomes" className="sheet p-5">
            <h2 id="becomes" className="mb-1 text-lg">
              {t.ahead.becomes}
            </h2>
            <p>{t.ahead.seenBy({ names: known.seen_by.join(", ") })}</p>
            <p className="text-sm text-faded">
              {t.ahead.minutesTo({ name: known.seen_by[0] ?? "" })}
            </p>
          </section>
        </div>
      </div>
    </div>
  );
}

/** Its agenda: what to discuss, how long each point gets; sent to those who come. */
function Prepared({ id, known, changes }: { id: number; known: Known; changes: boolean }) {
  const [changing, setChanging] = useState(false);
  const [sure, setSure] = useState(false);
  const say = useSay();
  const at = { params: { path: { planned_id: id } } };
  const send = useChange(
    () => the(client.POST("/api/planned/{planned_id}/agenda/mail", at)),
    keys.ahead(id),
  );
  const planned = known.prepared.reduce((all, point) => all + point.minutes, 0);
  const length = Math.round((Date.parse(known.entry.end) - Date.parse(known.entry.start)) / 60_000);
  return (
    <section aria-label={t.agenda.title} className="sheet p-5">
      {changing ? (
        <SetAgenda
          points={known.prepared}
          put={(body) => the(client.PUT("/api/planned/{planned_id}/agenda", { ...at, body }))}
          stale={keys.ahead(id)}
          close={() => setChanging(false)}
        />
      ) : (
        <>
          <h2 className="mb-2 text-lg">{t.agenda.title}</h2>
          {known.prepared.length === 0 && <Empty>{t.ahead.noAgenda}</Empty>}
          <ol>
            {known.prepared.map((point, index) => (
              <li
                key={index}
                className="flex items-baseline justify-between gap-3 border-b border-rule py-1.5"
              >
                <span className="font-serif">{point.text}</span>
                <span className="text-sm whitespace-nowrap text-faded">
                  {t.agenda.planned({ n: point.minutes })}
                </span>
              </li>
            ))}
          </ol>
          {planned > length && !known.entry.all_day && (
            <p className="mt-1 text-sm text-clay">{t.ahead.tooLong({ planned, length })}</p>
          )}
          {changes && (
            <p className="mt-3 flex flex-wrap gap-2">
              <button type="button" className="press py-1" onClick={() => setChanging(true)}>
                {known.prepared.length ? t.agenda.change : t.agenda.set}
              </button>
              {known.prepared.length > 0 && known.takers.length > 0 && (
                <button type="button" className="press py-1" onClick={() => setSure(true)}>
                  {t.ahead.send}
                </button>
              )}
            </p>
          )}
          {known.sent_at && (
            <p className="mt-1 text-sm text-faded">
              {t.ahead.sentAt({
                when: `${showLongDay(known.sent_at)}, ${showTime(known.sent_at)}`,
              })}
            </p>
          )}
          <Wrong error={send.error} />
        </>
      )}
      {sure && (
        <Sure
          title={t.ahead.sureSend}
          hint={t.ahead.takers({ names: known.takers.join(", ") })}
          yes={t.ahead.sendYes}
          no={t.ahead.sendNo}
          act={() => send.mutate(undefined, { onSuccess: () => say(t.ahead.sent) })}
          close={() => setSure(false)}
        />
      )}
    </section>
  );
}

/** Of its series: what nobody has closed, and whose it is; the meetings before it. */
function LeftOpen({ known }: { known: Known }) {
  return (
    <section aria-labelledby="open" className="sheet p-5">
      <h2 id="open" className="mb-2 text-lg">
        {t.ahead.leftOpen}
      </h2>
      {known.left_open.length === 0 && (
        <Empty>{known.earlier.length ? t.ahead.nothingOpen : t.ahead.firstOfAll}</Empty>
      )}
      <ul>
        {known.left_open.map((one, index) => (
          <li
            key={index}
            className="grid grid-cols-[auto_minmax(0,1fr)] items-baseline gap-x-2 border-b border-rule py-1.5"
          >
            <Glyph kind={one.kind === "action" ? "action" : "question"} />
            <span>
              <Link
                className="font-serif hover:underline underline-offset-4"
                to={`/meetings/${one.meeting}?at=${one.start}`}
              >
                {one.text}
              </Link>
              <span className="block text-sm text-faded">
                {[
                  one.whose,
                  one.due && `${t.today.due} ${showDate(one.due)}`,
                  `${one.title}, ${clock(one.start)}`,
                ]
                  .filter(Boolean)
                  .join(" · ")}
              </span>
            </span>
          </li>
        ))}
      </ul>
      {known.earlier.length > 0 && (
        <p className="mt-2 text-sm">
          <span className="text-faded">{t.ahead.earlier}</span>{" "}
          {known.earlier.map((one, index) => (
            <span key={one.id}>
              {index > 0 && ", "}
              <Link className="underline underline-offset-4" to={`/meetings/${one.id}`}>
                {showDate(dayOf(new Date(one.started_at)))}
              </Link>
            </span>
          ))}
        </p>
      )}
    </section>
  );
}
