import { useState } from "react";
import { Link } from "react-router";
import { client, the, type Schemas } from "../../api/client";
import { keys, useChange, useVisits } from "../../api/hooks";
import { Field } from "../../parts/field";
import { Leaf } from "../../parts/leaf";
import { useSay } from "../../parts/sayings";
import { Wrong } from "../../parts/states";
import { showTime } from "../../parts/time";
import { t } from "../../texts";
import { standing, titleOf } from "./words";

/** Where the clerk is for me, or was today; and sending it. */
export function Visits() {
  const visits = useVisits();
  const [sending, setSending] = useState(false);
  const now = visits.data?.filter((one) => !one.over || one.meeting === null) ?? [];
  return (
    <section aria-labelledby="clerk">
      <div className="mb-2 flex items-baseline gap-3">
        <h2 id="clerk" className="grow text-base">
          {t.clerk.title}
        </h2>
        <button type="button" className="press py-1 text-sm" onClick={() => setSending(true)}>
          {t.clerk.send}
        </button>
      </div>
      {now.length > 0 && (
        <ul className="sheet px-4">
          {now.map((visit) => (
            <Row key={visit.id} visit={visit} />
          ))}
        </ul>
      )}
      {sending && <Send close={() => setSending(false)} />}
    </section>
  );
}

function Row({ visit }: { visit: Schemas["VisitOut"] }) {
  const title = titleOf(visit);
  const away = useAway(visit);
  const at = visit.changes.at(-1)?.at ?? visit.starts_at;
  return (
    <li className="flex flex-wrap items-baseline gap-x-3 gap-y-1 border-b border-rule py-2.5 last:border-0">
      <div className="min-w-0 grow basis-60">
        <p className={`font-serif ${visit.over ? "text-faded" : ""}`}>{title}</p>
        <p className="text-sm text-faded">
          <span role="status">{standing(visit)}</span> · {showTime(at)} ·{" "}
          {t.clerk.for({ names: visit.wanted_by.join(", ") })}
        </p>
        <Wrong error={away.error} />
      </div>
      {visit.meeting && (
        <Link
          className="press py-1 text-sm"
          to={`/meetings/${visit.meeting}`}
          aria-label={t.clerk.readOf({ title })}
        >
          {t.clerk.read}
        </Link>
      )}
      {!visit.over && (
        <button
          type="button"
          className="press py-1 text-sm"
          disabled={visit.leaving || away.isPending}
          aria-label={t.clerk.awayOf({ title })}
          onClick={() => away.mutate(undefined)}
        >
          {t.clerk.away}
        </button>
      )}
    </li>
  );
}

/** Sends it away. */
export function useAway(visit: Schemas["VisitOut"]) {
  return useChange(
    () =>
      the(client.POST("/api/clerk/{visit_id}/away", { params: { path: { visit_id: visit.id } } })),
    keys.visits,
    keys.days,
    ...(visit.meeting ? [keys.clerk(visit.meeting)] : []),
  );
}

/** Into a call that runs, by hand. */
export function Send({ close }: { close: () => void }) {
  const [link, setLink] = useState("");
  const [passcode, setPasscode] = useState("");
  const [title, setTitle] = useState("");
  const [minutes, setMinutes] = useState("180");
  const say = useSay();
  const send = useChange(
    () =>
      the(client.POST("/api/clerk", { body: { link, passcode, title, minutes: Number(minutes) } })),
    keys.visits,
  );
  return (
    <Leaf title={t.clerk.send} close={close}>
      <form
        className="flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          send.mutate(undefined, {
            onSuccess: () => {
              say(t.clerk.sent);
              close();
            },
          });
        }}
      >
        <p className="text-sm text-faded">{t.clerk.sendHint}</p>
        <Field label={t.clerk.link} htmlFor="call-link">
          <textarea
            id="call-link"
            required
            rows={2}
            maxLength={8000}
            className="field"
            value={link}
            onChange={(event) => setLink(event.target.value)}
          />
        </Field>
        <div className="grid gap-4 sm:grid-cols-2">
          <Field label={t.clerk.passcode} htmlFor="call-passcode">
            <input
              id="call-passcode"
              maxLength={80}
              autoComplete="off"
              className="field"
              value={passcode}
              onChange={(event) => setPasscode(event.target.value)}
            />
          </Field>
          <Field label={t.clerk.minutes} htmlFor="call-minutes">
            <input
              id="call-minutes"
              type="number"
              min={5}
              max={720}
              required
              className="field"
              value={minutes}
              onChange={(event) => setMinutes(event.target.value)}
            />
          </Field>
        </div>
        <Field label={t.clerk.called} htmlFor="call-title">
          <input
            id="call-title"
            maxLength={200}
            className="field"
            value={title}
            onChange={(event) => setTitle(event.target.value)}
          />
        </Field>
        <Wrong error={send.error} />
        <p className="flex flex-wrap gap-3">
          <button type="submit" className="press press-main" disabled={send.isPending}>
            {t.clerk.send}
          </button>
          {send.error && (
            <Link className="press" to="/capture">
              {t.clerk.captureInstead}
            </Link>
          )}
        </p>
      </form>
    </Leaf>
  );
}
