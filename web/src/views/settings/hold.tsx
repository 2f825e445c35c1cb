import { useState } from "react";
import { client, the, type Schemas } from "../../api/client";
import { useChange } from "../../api/hooks";
import { trust, useHold } from "../../api/trust";
import { Field } from "../../parts/field";
import { useSay } from "../../parts/sayings";
import { Wrong } from "../../parts/states";
import { longDate, showDay } from "../../parts/time";
import { t } from "../../texts";

/** For how long a meeting is kept, what of it goes when, and the hold that stops it. */
export function HoldPanel({ meeting }: { meeting: Schemas["MeetingOut"] }) {
  const held = useHold(meeting.id, true).data;
  const [why, setWhy] = useState("");
  const say = useSay();
  const at = { params: { path: { meeting_id: meeting.id } } };
  const hold = useChange(
    () => the(client.PUT("/api/meetings/{meeting_id}/hold", { ...at, body: { why } })),
    trust.hold(meeting.id),
  );
  const lift = useChange(
    () => the(client.DELETE("/api/meetings/{meeting_id}/hold", at)),
    trust.hold(meeting.id),
  );
  if (!held) return null;
  return (
    <section aria-labelledby="hold" className="sheet mt-6 px-6 py-4">
      <h2 id="hold" className="mb-1 text-lg">
        {t.hold.title}
      </h2>
      {held.sound_gone_at && (
        <p className="text-sm">{t.hold.soundGone({ day: showDay(held.sound_gone_at) })}</p>
      )}
      {held.record_gone_at && (
        <p className="text-sm">{t.hold.recordGone({ day: showDay(held.record_gone_at) })}</p>
      )}
      {held.hold ? (
        <p>{t.hold.held({ by: held.hold.by, day: showDay(held.hold.at), why: held.hold.why })}</p>
      ) : held.goes.length ? (
        held.goes.map((one) => (
          <p key={one.what} className="text-clay">
            {t.hold.goes({ what: t.hold.what[one.what] ?? one.what, on: longDate(one.on) })}
          </p>
        ))
      ) : (
        <p className="text-sm text-faded">{t.hold.free}</p>
      )}
      {held.may_change &&
        (held.hold ? (
          <button
            type="button"
            className="press mt-3"
            disabled={lift.isPending}
            onClick={() => lift.mutate(undefined, { onSuccess: () => say(t.hold.lifted) })}
          >
            {t.hold.lift}
          </button>
        ) : (
          <form
            className="mt-3 flex flex-wrap items-end gap-3"
            onSubmit={(event) => {
              event.preventDefault();
              hold.mutate(undefined, { onSuccess: () => (setWhy(""), say(t.hold.done)) });
            }}
          >
            <div className="grow">
              <Field label={t.hold.why} hint={t.hold.whyHint} htmlFor="hold-why">
                <input
                  id="hold-why"
                  required
                  maxLength={400}
                  className="field"
                  value={why}
                  onChange={(event) => setWhy(event.target.value)}
                />
              </Field>
            </div>
            <button type="submit" className="press" disabled={hold.isPending}>
              {t.hold.hold}
            </button>
          </form>
        ))}
      <Wrong error={hold.error ?? lift.error} className="mt-2" />
    </section>
  );
}
