import { useState } from "react";
import { client, the, type Schemas } from "../../api/client";
import { keys, useChange } from "../../api/hooks";
import { trust, useReceivers, useSentFrom } from "../../api/trust";
import { may } from "../../api/rights";
import { Choose } from "../../parts/choose";
import { told } from "../../parts/getting";
import { useSay } from "../../parts/sayings";
import { Wrong } from "../../parts/states";
import { Ticks } from "../../parts/ticks";
import { t } from "../../texts";
import { SendMinutes } from "../links/send";
import { SentList } from "../links/sent";

type Going = Schemas["Going"];

/** Who gets the minutes of this meeting, and when; and what of it went to whom. */
export function Receivers({ meeting }: { meeting: Schemas["MeetingOut"] }) {
  const way = useReceivers(meeting.id, true).data;
  const sent = useSentFrom(meeting.id).data ?? [];
  const [changing, setChanging] = useState(false);
  const [sending, setSending] = useState(false);
  if (!way) return null;
  return (
    <section aria-labelledby="receivers" className="sheet mt-6 px-6 py-4">
      <h2 id="receivers" className="mb-1 text-lg">
        {t.sending.title}
      </h2>
      <p className="mb-3">{told(way)}</p>
      {changing ? (
        <Change meeting={meeting} way={way} close={() => setChanging(false)} />
      ) : (
        <p className="flex flex-wrap gap-3">
          {way.receivers.length > 0 && (
            <button type="button" className="press" onClick={() => setSending(true)}>
              {t.sending.send}
            </button>
          )}
          {may(meeting, "govern") && (
            <button type="button" className="press" onClick={() => setChanging(true)}>
              {t.sending.change}
            </button>
          )}
        </p>
      )}
      {sent.length > 0 && (
        <>
          <h3 className="mt-5 mb-1 text-base">{t.sending.sentTitle}</h3>
          <SentList letters={sent} />
        </>
      )}
      {sending && <SendMinutes meeting={meeting} way={way} close={() => setSending(false)} />}
    </section>
  );
}

function Change({
  meeting,
  way,
  close,
}: {
  meeting: Schemas["MeetingOut"];
  way: Schemas["WayOut"];
  close: () => void;
}) {
  const say = useSay();
  const [people, setPeople] = useState(way.receivers.map((one) => one.person));
  const [going, setGoing] = useState<Going>(way.going);
  const at = { params: { path: { meeting_id: meeting.id } } };
  const stale = [trust.receivers(meeting.id), trust.lookOver, keys.meeting(meeting.id)];
  const save = useChange(
    () =>
      the(client.PUT("/api/meetings/{meeting_id}/receivers", { ...at, body: { people, going } })),
    ...stale,
  );
  const usual = useChange(
    () => the(client.DELETE("/api/meetings/{meeting_id}/receivers", at)),
    ...stale,
  );
  const done = { onSuccess: () => (say(t.settings.saved), close()) };
  const known = new Map(meeting.people.map((one) => [one.id, one.name]));
  way.receivers.forEach((one) => known.set(one.person, one.name));
  return (
    <form
      className="flex flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate(undefined, done);
      }}
    >
      <Ticks
        legend={t.sending.who}
        hint={t.sending.whoHint}
        all={[...known].map(([id, name]) => ({ id, name }))}
        chosen={people}
        change={setPeople}
      />
      <Choose
        id="going"
        label={t.sending.when}
        value={going}
        change={setGoing}
        options={t.sending.goings}
      />
      <Wrong error={save.error ?? usual.error} />
      <p className="flex flex-wrap gap-3">
        <button type="submit" className="press press-main" disabled={save.isPending}>
          {t.settings.save}
        </button>
        {way.by_hand && (
          <button type="button" className="press" onClick={() => usual.mutate(undefined, done)}>
            {t.sending.asUsual}
          </button>
        )}
        <button type="button" className="press" onClick={close}>
          {t.spread.cancel}
        </button>
      </p>
    </form>
  );
}
