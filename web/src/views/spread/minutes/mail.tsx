import { useState } from "react";
import { client, the, type Schemas } from "../../../api/client";
import { useChange, useMe } from "../../../api/hooks";
import { Choose } from "../../../parts/choose";
import { copyText } from "../../../parts/copy";
import { Field } from "../../../parts/field";
import { Glyph, type Kind } from "../../../parts/glyph";
import { Leaf } from "../../../parts/leaf";
import { useSay } from "../../../parts/sayings";
import { Empty, Wrong } from "../../../parts/states";
import { t } from "../../../texts";

const SAID: Record<string, Kind> = { decision: "decision", action: "action", question: "question" };

/** A mail drafted from ticked lines, to be worded and sent by whoever drafts it. */
export function FollowUp({
  meeting,
  minutes,
  close,
}: {
  meeting: Schemas["MeetingOut"];
  minutes: Schemas["MinutesOut"];
  close: () => void;
}) {
  const say = useSay();
  const lines = minutes.lines.filter(
    (line) =>
      !line.removed &&
      (line.finding
        ? line.finding.kind in SAID
        : ["decisions", "actions", "questions"].includes(line.section)),
  );
  const [ticked, setTicked] = useState(
    () => new Set(lines.filter((line) => line.finding?.kind !== "question").map((line) => line.id)),
  );
  const me = useMe();
  const there = new Set(meeting.people.map((one) => one.id));
  const known = [...meeting.people, ...meeting.receivers.filter((one) => !there.has(one.id))];
  // Who usually gets the minutes of its series; where that was not said, those who were there.
  const usual = meeting.receivers.length ? meeting.receivers : meeting.people;
  const [people, setPeople] = useState(
    () =>
      new Set(
        usual.filter((one) => one.email && one.email !== me.data?.email).map((one) => one.id),
      ),
  );
  const [tone, setTone] = useState("friendly");
  const [mail, setMail] = useState<Schemas["MailOut"] | null>(null);
  const at = { params: { path: { meeting_id: meeting.id } } };
  const draft = useChange(() =>
    the(
      client.POST("/api/meetings/{meeting_id}/mail/draft", {
        ...at,
        body: { lines: [...ticked], people: [...people], tone },
      }),
    ),
  );
  const send = useChange((worded: Schemas["MailOut"]) =>
    the(
      client.POST("/api/meetings/{meeting_id}/mail", {
        ...at,
        body: { people: [...people], ...worded },
      }),
    ),
  );
  const flip = (set: Set<number>, id: number) => {
    const next = new Set(set);
    if (!next.delete(id)) next.add(id);
    return next;
  };
  const error = draft.error ?? send.error;
  return (
    <Leaf title={t.minutes.mailTitle} hint={t.minutes.everyoneOwn} wide close={close}>
      {lines.length === 0 && <Empty>{t.minutes.nothingToSay}</Empty>}
      <div className="grid gap-6 md:grid-cols-2">
        <div className="flex min-w-0 flex-col gap-4">
          <fieldset>
            <legend className="font-serif text-sm">{t.minutes.mailLines}</legend>
            <ul tabIndex={0} className="max-h-56 overflow-y-auto border-y border-rule">
              {lines.map((line) => (
                <li key={line.id}>
                  <label className="grid grid-cols-[auto_auto_1fr] items-baseline gap-2 py-1">
                    <input
                      type="checkbox"
                      className="accent-slate"
                      checked={ticked.has(line.id)}
                      onChange={() => setTicked(flip(ticked, line.id))}
                    />
                    <span className="translate-y-0.5">
                      {line.finding && <Glyph kind={SAID[line.finding.kind]!} />}
                    </span>
                    <span className="font-serif text-sm">{line.text}</span>
                  </label>
                </li>
              ))}
            </ul>
          </fieldset>
          <fieldset>
            <legend className="font-serif text-sm">{t.minutes.mailTo}</legend>
            <ul tabIndex={0} className="max-h-40 overflow-y-auto">
              {known.map((one) => (
                <li key={one.id}>
                  <label className="flex items-baseline gap-2 py-0.5 text-sm">
                    <input
                      type="checkbox"
                      className="accent-slate"
                      disabled={!one.email}
                      checked={people.has(one.id)}
                      onChange={() => setPeople(flip(people, one.id))}
                    />
                    {one.name}{" "}
                    <span className="text-faded">{one.email || t.minutes.noAddress}</span>
                  </label>
                </li>
              ))}
            </ul>
          </fieldset>
          <div className="flex flex-wrap items-end gap-3">
            <Choose
              id="mail-tone"
              label={t.minutes.tone}
              value={tone}
              change={setTone}
              options={t.minutes.tones}
            />
            <button
              type="button"
              className={mail ? "press" : "press press-main"}
              disabled={!ticked.size || draft.isPending}
              onClick={() => draft.mutate(undefined, { onSuccess: setMail })}
            >
              {mail ? t.minutes.redraft : t.minutes.draft}
            </button>
          </div>
        </div>
        {mail && (
          <form
            className="flex flex-col gap-3"
            onSubmit={(event) => {
              event.preventDefault();
              send.mutate(mail, {
                onSuccess: ({ to }) => {
                  say(t.minutes.sentTo({ names: to.join(", ") }));
                  close();
                },
              });
            }}
          >
            <Field label={t.minutes.subject} htmlFor="mail-subject">
              <input
                id="mail-subject"
                className="field"
                value={mail.subject}
                onChange={(event) => setMail({ ...mail, subject: event.target.value })}
              />
            </Field>
            <Field label={t.minutes.body} htmlFor="mail-body">
              <textarea
                id="mail-body"
                rows={14}
                className="field font-serif text-sm"
                value={mail.body}
                onChange={(event) => setMail({ ...mail, body: event.target.value })}
              />
            </Field>
            <p className="flex gap-3">
              <button
                type="submit"
                className="press press-main"
                disabled={!people.size || send.isPending}
              >
                {t.minutes.send}
              </button>
              <button
                type="button"
                className="press"
                onClick={() =>
                  void copyText(`${mail.subject}\n\n${mail.body}`).then(() => say(t.minutes.copied))
                }
              >
                {t.minutes.copyMail}
              </button>
            </p>
          </form>
        )}
      </div>
      <Wrong error={error} className="mt-3" />
    </Leaf>
  );
}
