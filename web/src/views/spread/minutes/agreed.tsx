import { Popover } from "radix-ui";
import { useState } from "react";
import { client, the, type Schemas } from "../../../api/client";
import { may } from "../../../api/rights";
import { PactForm, type Pact } from "../../../parts/pact";
import { useSay } from "../../../parts/sayings";
import { isPast, showDate } from "../../../parts/time";
import { t } from "../../../texts";
import { useSpread } from "../context";
import { useMinutesChange, type MinutesLine } from "./changes";

type Finding = Schemas["FindingOut"];
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
              <PactForm
                id={line.id}
                there={meeting.people.map((one) => one.name)}
                was={was}
                keep={agree}
                close={() => setOpen(false)}
              />
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
