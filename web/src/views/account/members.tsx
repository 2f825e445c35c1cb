import { useState } from "react";
import { client, the, type Schemas } from "../../api/client";
import { keys, useChange, useInvitations, useMembers } from "../../api/hooks";
import { may } from "../../api/rights";
import { useLeaving } from "../../api/trust";
import { Choose } from "../../parts/choose";
import { Field } from "../../parts/field";
import { Leaf } from "../../parts/leaf";
import { useSay } from "../../parts/sayings";
import { Trouble, Wait, Wrong } from "../../parts/states";
import { showDay } from "../../parts/time";
import { t } from "../../texts";

type Role = Schemas["Role"];
type Member = Schemas["MemberOut"];

/** Who is in the workspace, as what; who is invited; and the way out. */
export function Members({ me }: { me: Schemas["MeOut"] }) {
  const manages = may(me, "manage");
  const members = useMembers();
  const invitations = useInvitations(manages);
  const [email, setEmail] = useState("");
  const [role, setRole] = useState<Role>("member");
  const [leaving, setLeaving] = useState<Member | null>(null);
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
            <span className="flex items-center gap-3">
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
              {(manages || member.email === me.email) && (
                <button type="button" className="plain" onClick={() => setLeaving(member)}>
                  {member.email === me.email ? t.leaving.leave : t.leaving.remove}
                </button>
              )}
            </span>
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
      {leaving && (
        <Leaving
          member={leaving}
          mine={leaving.email === me.email}
          heirs={members.data.filter((one) => one.id !== leaving.id && one.role !== "guest")}
          close={() => setLeaving(null)}
        />
      )}
    </section>
  );
}

/** What somebody leaves behind, to whom it goes, and the press that does it. */
function Leaving({
  member,
  mine,
  heirs,
  close,
}: {
  member: Member;
  mine: boolean;
  heirs: Member[];
  close: () => void;
}) {
  const say = useSay();
  const left = useLeaving(member.id);
  const [heir, setHeir] = useState("");
  const name = member.name || member.email;
  const remove = useChange(
    () =>
      the(
        client.POST("/api/members/{member_id}/remove", {
          params: { path: { member_id: member.id } },
          body: { heir: heir ? Number(heir) : null },
        }),
      ),
    ["members"],
    keys.library,
    keys.links,
    ...(mine ? [keys.me] : []),
  );
  return (
    <Leaf title={mine ? t.leaving.leaveTitle : t.leaving.title({ name })} close={close}>
      {left.error ? (
        <Trouble error={left.error} />
      ) : !left.data ? (
        <Wait />
      ) : (
        <form
          className="flex flex-col gap-4"
          onSubmit={(event) => {
            event.preventDefault();
            remove.mutate(undefined, {
              onSuccess: () => {
                say(t.leaving.done({ name }));
                close();
              },
            });
          }}
        >
          <p>{t.leaving.hint}</p>
          <p className="text-sm text-faded">
            {t.leaving.left({
              n: left.data.meetings,
              alone: left.data.alone,
              links: left.data.links,
            })}
          </p>
          <Choose
            id="heir"
            label={t.leaving.heir}
            hint={heir ? undefined : t.leaving.nobodyHint}
            value={heir}
            change={setHeir}
            options={{
              "": t.leaving.nobody,
              ...Object.fromEntries(heirs.map((one) => [String(one.id), one.name])),
            }}
          />
          <Wrong error={remove.error} />
          <p className="flex gap-3">
            <button
              type="submit"
              className="press border-clay text-clay"
              disabled={remove.isPending}
            >
              {mine ? t.leaving.leave : t.leaving.remove}
            </button>
            <button type="button" className="press" onClick={close}>
              {t.spread.cancel}
            </button>
          </p>
        </form>
      )}
    </Leaf>
  );
}
