import { Popover } from "radix-ui";
import { useState, type ReactNode } from "react";
import { client, the } from "../api/client";
import { useChoices } from "../api/hooks";
import { t } from "../texts";
import { Field } from "./field";
import { Foot } from "./leaf";
import { useSay } from "./sayings";
import { showDate } from "./time";

/** Whose an action is, and by when. */
export interface Pact {
  owner: string | null;
  due: string | null;
}

interface Change {
  was: Pact;
  now: Pact;
}

/** In words. */
export const named = ({ owner, due }: Pact) => ({
  owner: owner ?? t.minutes.nobody,
  day: due ? showDate(due) : t.minutes.noDay,
});

/** Have the server keep it, so that nobody's change is overwritten unseen. */
export const keepPact =
  (finding: number) =>
  ({ was, now }: Change) =>
    the(
      client.PATCH("/api/minutes/findings/{finding_id}", {
        params: { path: { finding_id: finding } },
        body: {
          ...(was.owner === now.owner ? {} : { owner: { was: was.owner, now: now.owner } }),
          ...(was.due === now.due ? {} : { due: { was: was.due, now: now.due } }),
        },
      }),
    );

/** Agrees on something else, and says so, with the way back. */
export function useAgree(
  was: Pact,
  mutate: (change: Change, then?: { onSuccess?: () => void }) => void,
): (now: Pact) => void {
  const say = useSay();
  return (now) => {
    if (now.owner === was.owner && now.due === was.due) return;
    const back = () => mutate({ was: now, now: was });
    mutate({ was, now }, { onSuccess: () => say(t.minutes.given(named(now)), back) });
  };
}

/** Whose it is and by when, as something to press: changed where it stands. */
export function PactPress({
  id,
  there,
  was,
  tab,
  agree,
  children,
}: {
  id: number;
  /** Names of those who were there. */
  there: readonly string[];
  was: Pact;
  tab: number;
  agree: (now: Pact) => void;
  children: ReactNode;
}) {
  const [open, setOpen] = useState(false);
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <button
          type="button"
          tabIndex={tab}
          className="plain px-1 text-left text-sm"
          aria-label={t.minutes.agreed(named(was))}
        >
          {children}
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          collisionPadding={12}
          className="sheet z-40 w-72 p-4 shadow-lg"
        >
          <PactForm
            id={id}
            there={there}
            was={was}
            keep={(now) => {
              setOpen(false);
              agree(now);
            }}
            close={() => setOpen(false)}
          />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function PactForm({
  id,
  there,
  was,
  keep,
  close,
}: {
  id: number;
  there: readonly string[];
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
      <PactFields id={id} there={there} pact={pact} change={setPact} none={t.minutes.nobody} />
      <Foot className="mt-4 flex gap-3" act={t.spread.save} off={false} close={close} />
    </form>
  );
}

/** A person, of those who were there or else of the workspace, and a day. `none`: what nobody chosen means. */
export function PactFields({
  id,
  there,
  pact,
  change,
  none,
}: {
  id: number | string;
  there: readonly string[];
  pact: Pact;
  change: (pact: Pact) => void;
  none: string;
}) {
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
