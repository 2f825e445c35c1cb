import { Popover } from "radix-ui";
import { useState } from "react";
import { client, the, type Schemas } from "../../../api/client";
import { useChoices } from "../../../api/hooks";
import { may } from "../../../api/rights";
import { Field } from "../../../parts/field";
import { Foot } from "../../../parts/leaf";
import { useSay } from "../../../parts/sayings";
import { isPast, showDate } from "../../../parts/time";
import { t } from "../../../texts";
import { useSpread } from "../context";
import { useMinutesChange, type MinutesLine } from "./changes";

type Finding = Schemas["FindingOut"];
export interface Pact {
  owner: string | null;
  due: string | null;
}

/** Whose an action is and by when, beside its sentence: changed where it stands. */
export function Agreed({ line, action, tab }: { line: MinutesLine; action: Finding; tab: number }) {
  const { meeting } = useSpread();
  const say = useSay();
  const [open, setOpen] = useState(false);
  const change = useMinutesChange(meeting, ({ was, now }: { was: Pact; now: Pact }) =>
    the(
      client.PATCH("/api/minutes/findings/{finding_id}", {
        params: { path: { finding_id: action.id } },
        body: {
          ...(was.owner === now.owner ? {} : { owner: { was: was.owner, now: now.owner } }),
          ...(was.due === now.due ? {} : { due: { was: was.due, now: now.due } }),
        },
      }),
    ),
  );
  const was: Pact = { owner: action.owner, due: action.due };
  const named = (pact: Pact) => ({
    owner: pact.owner ?? t.minutes.nobody,
    day: pact.due ? showDate(pact.due) : t.minutes.noDay,
  });
  const agree = (now: Pact) => {
    setOpen(false);
    if (now.owner === was.owner && now.due === was.due) return;
    change.mutate(
      { was, now },
      {
        onSuccess: () =>
          say(t.minutes.given(named(now)), () => change.mutate({ was: now, now: was })),
      },
    );
  };
  const late = !action.done && action.due !== null && isPast(action.due);
  // "Gwen to send it": who it is stands there already.
  const inSentence = was.owner !== null && line.text.startsWith(was.owner.split(" ")[0]!);
  const told = (
    <>
      {!inSentence && `${named(was).owner} · `}
      <span className={late ? "text-clay" : ""}>{named(was).day}</span>
    </>
  );
  const said = line.otherwise;
  const mayChange = may(meeting, "change");
  return (
    <span className="ml-2 font-sans text-sm text-faded">
      {mayChange ? (
        <Popover.Root open={open} onOpenChange={setOpen}>
          <Popover.Trigger asChild>
            <button
              type="button"
              tabIndex={tab}
              className="plain px-1 text-left text-sm"
              aria-label={t.minutes.agreed(named(was))}
            >
              {told}
            </button>
          </Popover.Trigger>
          <Popover.Portal>
            <Popover.Content
              align="start"
              collisionPadding={12}
              className="sheet z-40 w-72 p-4 shadow-lg"
            >
              <AgreedForm id={line.id} was={was} keep={agree} close={() => setOpen(false)} />
            </Popover.Content>
          </Popover.Portal>
        </Popover.Root>
      ) : (
        told
      )}
      {said && (
        <span className="block">
          {t.minutes.otherwise({
            said: [said.owner, said.due && showDate(said.due)].filter(Boolean).join(", "),
          })}{" "}
          {mayChange && (
            <button
              type="button"
              tabIndex={tab}
              className="plain px-1 text-sm"
              onClick={() => agree({ owner: said.owner ?? was.owner, due: said.due ?? was.due })}
            >
              {t.minutes.takeSaid}
            </button>
          )}
        </span>
      )}
      {change.error && (
        <span role="alert" className="block text-clay">
          {change.error.message}
        </span>
      )}
    </span>
  );
}

function AgreedForm({
  id,
  was,
  keep,
  close,
}: {
  id: number;
  was: Pact;
  keep: (now: Pact) => void;
  close: () => void;
}) {
  const [pact, setPact] = useState(was);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        keep(pact);
      }}
    >
      <PactFields id={id} pact={pact} change={setPact} none={t.minutes.nobody} />
      <Foot className="mt-4 flex gap-3" act={t.spread.save} off={false} close={close} />
    </form>
  );
}

/** A person, of those who were there or else of the workspace, and a day. `none`: what nobody chosen means. */
export function PactFields({
  id,
  pact,
  change,
  none,
}: {
  id: number | string;
  pact: Pact;
  change: (pact: Pact) => void;
  none: string;
}) {
  const { meeting } = useSpread();
  const there = meeting.people.map((one) => one.name);
  const rest = [...(useChoices().data?.people ?? []), ...(pact.owner ? [pact.owner] : [])];
  const others = [...new Set(rest)].filter((name) => !there.includes(name));
  return (
    <div className="my-2 grid grid-cols-[repeat(auto-fit,minmax(11rem,1fr))] gap-3">
      <Field label={t.minutes.whose} htmlFor={`whose-${id}`}>
        <select
          id={`whose-${id}`}
          className="field"
          value={pact.owner ?? ""}
          onChange={(event) => change({ ...pact, owner: event.target.value || null })}
        >
          <option value="">{none}</option>
          {[[t.minutes.there, there] as const, [t.minutes.othersNames, others] as const].map(
            ([label, names]) => (
              <optgroup key={label} label={label} hidden={!names.length}>
                {names.map((name) => (
                  <option key={name}>{name}</option>
                ))}
              </optgroup>
            ),
          )}
        </select>
      </Field>
      <Field label={t.minutes.when} htmlFor={`when-${id}`}>
        <input
          id={`when-${id}`}
          type="date"
          className="field"
          value={pact.due ?? ""}
          onChange={(event) => change({ ...pact, due: event.target.value || null })}
        />
      </Field>
    </div>
  );
}
