import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { client, failed, the, type Schemas } from "../../api/client";
import { keys, useChange, useMeeting, useMembers, useShelvesOf } from "../../api/hooks";
import { Field } from "../../parts/field";
import { Asked } from "../../parts/asked";
import { Names } from "../../parts/names";
import { useSay } from "../../parts/sayings";
import { Readers, Seen } from "../../parts/seen";
import { Trouble, Wait, Wrong } from "../../parts/states";
import { forField } from "../../parts/time";
import { t } from "../../texts";
import { NoticePanel } from "../capture/tell";
import { Elsewhere } from "../connections/send";
import { HoldPanel } from "./hold";
import { MeetingLinks } from "./links";
import { OnShelves } from "./onshelves";
import { Receivers } from "./receivers";
import { may } from "../../api/rights";

export function Settings() {
  const { id = "" } = useParams();
  const meeting = useMeeting(id);
  if (meeting.isPending) return <Wait />;
  if (failed(meeting)) return <Trouble error={meeting.error} />;
  return <Form meeting={meeting.data} />;
}

function Form({ meeting }: { meeting: Schemas["MeetingOut"] }) {
  const [title, setTitle] = useState(meeting.title);
  const [when, setWhen] = useState(forField(new Date(meeting.started_at)));
  const [people, setPeople] = useState(meeting.people.map((person) => person.name));
  const [series, setSeries] = useState(meeting.series ?? "");
  const [seen, setSeen] = useState(meeting.visibility);
  const letIn = meeting.seen_by.filter((one) => one.by_name).map((one) => one.member);
  const [readers, setReaders] = useState(letIn);
  const governs = may(meeting, "govern");
  const members = useMembers(governs);
  const shelves = useShelvesOf(meeting.id).data ?? [];
  const say = useSay();
  const go = useNavigate();
  const at = { params: { path: { meeting_id: meeting.id } } };
  const stale = [keys.meeting(meeting.id), keys.library, keys.today, keys.choices];
  const save = useChange(
    () =>
      the(
        client.PATCH("/api/meetings/{meeting_id}", {
          ...at,
          body: {
            title,
            people,
            series,
            ...(governs ? { visibility: seen, readers } : {}),
            ...(when !== forField(new Date(meeting.started_at))
              ? { started_at: new Date(when).toISOString() }
              : {}),
          },
        }),
      ),
    ...stale,
  );
  const restore = useChange(
    () => the(client.POST("/api/meetings/{meeting_id}/restore", at)),
    ...stale,
  );
  const remove = useChange(
    () => the(client.DELETE("/api/meetings/{meeting_id}", at)),
    keys.library,
    keys.today,
  );
  return (
    <div className="mx-auto w-full max-w-3xl px-4 py-8 sm:px-6">
      <Link to={`/meetings/${meeting.id}`} className="plain">
        {t.settings.back}
      </Link>
      <h1 className="mt-2 mb-5 text-2xl">{t.settings.title}</h1>
      {governs && <Asked of={meeting.id} />}
      <form
        className="sheet flex flex-col gap-5 p-6"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate(undefined, { onSuccess: () => say(t.settings.saved) });
        }}
      >
        <fieldset disabled={!may(meeting, "change")} className="contents">
          <fieldset>
            <legend className="mb-1 font-serif text-sm">{t.give.seen}</legend>
            <Seen
              value={seen}
              change={setSeen}
              disabled={!governs}
              meeting={meeting}
              readers={readers}
              onShelves={shelves.some((one) => one.there)}
            />
            {!governs && <p className="mt-1 text-xs text-faded">{t.settings.cannot}</p>}
          </fieldset>
          {governs && seen !== "mine" && seen !== "shelf" && members.data && (
            <Readers
              meeting={meeting}
              members={members.data}
              readers={readers}
              change={setReaders}
            />
          )}
          <Field label={t.give.people} hint={t.give.peopleHint} htmlFor="people">
            <Names id="people" label={t.give.people} names={people} change={setPeople} />
          </Field>
          <Field label={t.settings.name} htmlFor="title">
            <input
              id="title"
              required
              maxLength={200}
              className="field"
              value={title}
              onChange={(e) => setTitle(e.target.value)}
            />
          </Field>
          <div className="grid gap-5 sm:grid-cols-2">
            <Field label={t.give.when} htmlFor="when">
              <input
                id="when"
                type="datetime-local"
                required
                className="field"
                value={when}
                onChange={(e) => setWhen(e.target.value)}
              />
            </Field>
            <Field label={t.give.series} htmlFor="series">
              <input
                id="series"
                maxLength={200}
                className="field"
                value={series}
                onChange={(e) => setSeries(e.target.value)}
              />
            </Field>
          </div>
          <Wrong error={save.error} />
          {may(meeting, "change") && (
            <div>
              <button type="submit" disabled={save.isPending} className="press press-main">
                {t.settings.save}
              </button>
            </div>
          )}
        </fieldset>
      </form>
      {shelves.length > 0 && <OnShelves meeting={meeting} shelves={shelves} />}
      {may(meeting, "send") && <Receivers meeting={meeting} />}
      {governs && <MeetingLinks meeting={meeting} />}
      {may(meeting, "send") && <Elsewhere meeting={meeting.id} />}
      {meeting.people.length > 0 && (
        <section className="sheet mt-6 px-6 py-4">
          <h2 className="mb-1 text-lg">{t.settings.people}</h2>
          <p className="mb-2 text-sm text-faded">{t.settings.peopleHint}</p>
          <ul>
            {meeting.people.map((person) => (
              <PersonRow key={person.id} meeting={meeting} person={person} />
            ))}
          </ul>
        </section>
      )}
      {meeting.capture && (
        <section className="sheet mt-6 px-6 py-4">
          <h2 className="mb-2 text-lg">{t.capture.noticeTitle}</h2>
          <NoticePanel meeting={meeting.id} />
        </section>
      )}
      <p className="mt-4 text-sm text-faded">
        {meeting.given_by && t.settings.given({ name: meeting.given_by })}
      </p>
      {may(meeting, "know team") && <HoldPanel meeting={meeting} />}
      {governs && (
        <div className="mt-8 border-t border-rule pt-5">
          <button
            type="button"
            className="press border-clay text-clay"
            disabled={remove.isPending}
            onClick={() =>
              remove.mutate(undefined, {
                onSuccess: () => {
                  say(t.settings.removed, () => restore.mutate(undefined));
                  void go("/library");
                },
              })
            }
          >
            {t.settings.remove}
          </button>
          <p className="mt-1 text-sm text-faded">{t.settings.removeHint}</p>
        </div>
      )}
    </div>
  );
}

/** Somebody who was there: how they are reached, and whom they are from. Kept when the field is left. */
function PersonRow({
  meeting,
  person,
}: {
  meeting: Schemas["MeetingOut"];
  person: Schemas["PersonOut"];
}) {
  const [email, setEmail] = useState(person.email);
  const [organisation, setOrganisation] = useState(person.organisation);
  const change = useChange(
    (body: { email?: string; organisation?: string }) =>
      the(
        client.PATCH("/api/people/{person_id}", {
          params: { path: { person_id: person.id } },
          body,
        }),
      ),
    keys.meeting(meeting.id),
  );
  return (
    <li className="grid items-center gap-2 border-b border-rule py-2 last:border-0 sm:grid-cols-[11rem_1fr_1fr]">
      <span className="font-serif">{person.name}</span>
      <input
        type="email"
        aria-label={t.settings.emailOf({ name: person.name })}
        placeholder={t.door.email}
        disabled={!may(meeting, "change") || person.has_account}
        title={person.has_account ? t.settings.account : undefined}
        className="field"
        value={email}
        onChange={(event) => setEmail(event.target.value)}
        onBlur={() => {
          if (email !== person.email) change.mutate({ email });
        }}
      />
      <input
        aria-label={t.settings.organisationOf({ name: person.name })}
        placeholder={t.settings.organisation}
        disabled={!may(meeting, "change")}
        className="field"
        value={organisation}
        onChange={(event) => setOrganisation(event.target.value)}
        onBlur={() => {
          if (organisation !== person.organisation) change.mutate({ organisation });
        }}
      />
      <Wrong error={change.error} className="text-sm sm:col-span-3" />
    </li>
  );
}
