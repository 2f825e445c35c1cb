import { useState } from "react";
import { client, the, type Schemas } from "../../api/client";
import { useChange } from "../../api/hooks";
import { trust } from "../../api/trust";
import { Choose } from "../../parts/choose";
import { Leaf } from "../../parts/leaf";
import { useSay } from "../../parts/sayings";
import { Wrong } from "../../parts/states";
import { showDay } from "../../parts/time";
import { t } from "../../texts";

const FORMS = { pdf: "PDF", docx: "DOCX", html: "HTML" } as const;

/** The last look before minutes go out: to whom, as what. */
export function SendMinutes({
  meeting,
  way,
  close,
}: {
  meeting: Pick<Schemas["MeetingOut"], "id">;
  way: Schemas["WayOut"];
  close: () => void;
}) {
  const say = useSay();
  const reached = way.receivers.filter((one) => one.reached);
  const [people, setPeople] = useState(
    reached.filter((one) => !one.sent_at).map((one) => one.person),
  );
  const [form, setForm] = useState<keyof typeof FORMS>("pdf");
  const send = useChange(
    () =>
      the(
        client.POST("/api/meetings/{meeting_id}/minutes/send", {
          params: { path: { meeting_id: meeting.id } },
          body: { people, form },
        }),
      ),
    trust.receivers(meeting.id),
    trust.sentFrom(meeting.id),
    trust.lookOver,
  );
  const flip = (id: number) =>
    setPeople(people.includes(id) ? people.filter((one) => one !== id) : [...people, id]);
  return (
    <Leaf title={t.sending.send} hint={t.sending.sendHint} close={close}>
      <form
        className="flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          send.mutate(undefined, {
            onSuccess: ({ names }) => {
              say(t.minutes.sentTo({ names: names.join(", ") }));
              close();
            },
          });
        }}
      >
        <fieldset>
          <legend className="mb-1 font-serif text-sm">{t.sending.who}</legend>
          <ul className="max-h-64 overflow-y-auto border border-rule px-3 py-1">
            {way.receivers.map((one) => (
              <li key={one.person}>
                <label className="flex flex-wrap items-baseline gap-x-2 py-1">
                  <input
                    type="checkbox"
                    className="size-4 translate-y-0.5 accent-slate"
                    disabled={!one.reached}
                    checked={people.includes(one.person)}
                    onChange={() => flip(one.person)}
                  />
                  {one.outside ? t.sending.outside({ name: one.name }) : one.name}
                  <span className="text-sm text-faded">
                    {!one.reached
                      ? t.minutes.noAddress
                      : one.sent_at
                        ? t.sending.had({ day: showDay(one.sent_at) })
                        : one.sees
                          ? t.sending.seesToo
                          : t.sending.documentOnly}
                  </span>
                </label>
              </li>
            ))}
          </ul>
        </fieldset>
        <Choose id="sent-as" label={t.sending.as} value={form} change={setForm} options={FORMS} />
        <Wrong error={send.error} />
        <p className="flex gap-3">
          <button
            type="submit"
            className="press press-main"
            disabled={!people.length || send.isPending}
          >
            {t.sending.go}
          </button>
          <button type="button" className="press" onClick={close}>
            {t.spread.cancel}
          </button>
        </p>
      </form>
    </Leaf>
  );
}
