import { useState } from "react";
import { Link } from "react-router";
import { client, the, type Schemas } from "../../api/client";
import { keys, useChange, useInvitations, useMe, useMembers } from "../../api/hooks";
import { Choose } from "../../parts/choose";
import { Field } from "../../parts/field";
import { useSay } from "../../parts/sayings";
import { Trouble, Wait, Wrong } from "../../parts/states";
import { applyScheme, chosenScheme, type Scheme } from "../../parts/scheme";
import { showDay, zone } from "../../parts/time";
import { t } from "../../texts";
import { chooseLanguage, chosenLanguage, LANGUAGES, type Language } from "../../texts/language";
import { Calendars } from "./calendars";
import { ClerkRules } from "./clerk";
import { Letterbox } from "./letterbox";
import { Telephones } from "./telephone";
import { Capturing } from "./capturing";
import { DigestWish } from "./digest";
import { Folders } from "./folders";
import { KnownVoices } from "./known";
import { Writer } from "./writer";
import { may } from "../../api/rights";

type Role = "owner" | "admin" | "member" | "guest";

export function Account() {
  const me = useMe();
  if (!me.data) return <Wait />;
  return (
    <div className="mx-auto w-full max-w-3xl px-4 py-8 sm:px-6">
      <h1 className="mb-1 text-2xl">{t.account.title}</h1>
      <p className="mb-5 flex gap-4">
        {may(me.data, "know team") && (
          <Link className="cite" to="/words">
            {t.words.title}
          </Link>
        )}
        {may(me.data, "arrange") && (
          <Link className="cite" to="/templates">
            {t.templates.title}
          </Link>
        )}
      </p>
      <Me me={me.data} />
      <DigestWish />
      {may(me.data, "add") && <Calendars />}
      {may(me.data, "add") && <ClerkRules />}
      {may(me.data, "add") && <Letterbox me={me.data} />}
      {may(me.data, "add") && <Telephones />}
      {may(me.data, "add") && <Folders />}
      {may(me.data, "know team") && <Members me={me.data} />}
      {may(me.data, "manage") && <Capturing />}
      {may(me.data, "manage") && <Writer />}
      <KnownVoices />
    </div>
  );
}

function Me({ me }: { me: Schemas["MeOut"] }) {
  const [name, setName] = useState(me.name);
  const [scheme, setScheme] = useState<Scheme>(chosenScheme());
  const say = useSay();
  const rename = useChange(
    (given: string) => the(client.PATCH("/api/me", { body: { name: given } })),
    keys.me,
  );
  return (
    <section className="sheet p-6">
      <h2 className="mb-3 text-lg">{t.account.me}</h2>
      <form
        className="flex items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          rename.mutate(name, { onSuccess: () => say(t.settings.saved) });
        }}
      >
        <div className="grow">
          <Field label={t.door.yourName} htmlFor="name">
            <input
              id="name"
              required
              className="field"
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
          </Field>
        </div>
        <button type="submit" className="press">
          {t.account.keep}
        </button>
      </form>
      <p className="mt-3 text-sm text-faded">
        {me.email} · {t.account.times({ zone: zone() })}
      </p>
      <div className="mt-4 grid max-w-lg gap-4 sm:grid-cols-2">
        <Choose
          id="language"
          label={t.account.language}
          value={chosenLanguage() ?? ""}
          change={(chosen: Language | "") => chooseLanguage(chosen || null)}
          options={{ "": t.account.asDevice, ...LANGUAGES }}
        />
        <Choose
          id="scheme"
          label={t.account.scheme}
          value={scheme}
          change={(chosen) => {
            setScheme(chosen);
            applyScheme(chosen);
          }}
          options={t.account.schemes}
        />
      </div>
    </section>
  );
}

function Members({ me }: { me: Schemas["MeOut"] }) {
  const manages = may(me, "manage");
  const members = useMembers();
  const invitations = useInvitations(manages);
  const [email, setEmail] = useState("");
  const [role, setRole] = useState<Role>("member");
  const say = useSay();
  const invite = useChange(
    () => the(client.POST("/api/invitations", { body: { email, role } })),
    ["invitations"],
  );
  const withdraw = useChange(
    (id: number) =>
      the(
        client.DELETE("/api/invitations/{invitation_id}", {
          params: { path: { invitation_id: id } },
        }),
      ),
    ["invitations"],
  );
  const change = useChange(
    ({ id, to }: { id: number; to: Role }) =>
      the(
        client.PATCH("/api/members/{member_id}", {
          params: { path: { member_id: id } },
          body: { role: to },
        }),
      ),
    ["members"],
  );
  if (!members.data) return members.error ? <Trouble error={members.error} /> : <Wait />;
  const options = Object.entries(t.account.roles).map(([key, label]) => (
    <option key={key} value={key}>
      {label}
    </option>
  ));
  return (
    <section className="sheet mt-6 p-6">
      <h2 className="mb-3 text-lg">
        {t.account.members}: {me.workspace}
      </h2>
      <ul>
        {members.data.map((member) => (
          <li
            key={member.id}
            className="flex flex-wrap items-center justify-between gap-3 border-b border-rule py-2"
          >
            <span>
              {member.name || member.email}
              <span className="block text-sm text-faded">{member.email}</span>
            </span>
            {manages ? (
              <select
                aria-label={t.account.roleOf({ name: member.name })}
                className="field w-auto"
                value={member.role}
                onChange={(event) =>
                  change.mutate({ id: member.id, to: event.target.value as Role })
                }
              >
                {options}
              </select>
            ) : (
              <span className="text-faded">{t.account.roles[member.role]}</span>
            )}
          </li>
        ))}
        {invitations.data?.map((one) => (
          <li
            key={one.id}
            className="flex flex-wrap items-center justify-between gap-3 border-b border-rule py-2 text-faded"
          >
            <span>
              {one.email}
              <span className="block text-sm">
                {t.account.invited}, {t.account.roles[one.role]}, {showDay(one.ends_at)}
              </span>
            </span>
            {manages && (
              <button type="button" className="plain" onClick={() => withdraw.mutate(one.id)}>
                {t.account.withdraw}
              </button>
            )}
          </li>
        ))}
      </ul>
      <Wrong error={change.error} className="mt-2" />
      {manages && (
        <form
          className="mt-4 flex flex-wrap items-end gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            invite.mutate(undefined, {
              onSuccess: () => {
                say(t.account.sent({ email }));
                setEmail("");
              },
            });
          }}
        >
          <div className="grow">
            <Field label={t.door.email} htmlFor="invite">
              <input
                id="invite"
                type="email"
                required
                className="field"
                value={email}
                onChange={(e) => setEmail(e.target.value)}
              />
            </Field>
          </div>
          <Field label={t.account.role} htmlFor="role">
            <select
              id="role"
              className="field"
              value={role}
              onChange={(e) => setRole(e.target.value as Role)}
            >
              {options}
            </select>
          </Field>
          <button type="submit" disabled={invite.isPending} className="press press-main">
            {t.account.invite}
          </button>
          <Wrong error={invite.error} className="w-full" />
          <p className="w-full text-xs text-faded">{t.account.inviteHint}</p>
        </form>
      )}
    </section>
  );
}
