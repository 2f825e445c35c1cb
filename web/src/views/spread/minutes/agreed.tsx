import type { Schemas } from "../../../api/client";
import { may } from "../../../api/rights";
import { keepPact, named, PactPress, useAgree, type Pact } from "../../../parts/pact";
import { isPast, showDate } from "../../../parts/time";
import { t } from "../../../texts";
import { useSpread } from "../context";
import { useMinutesChange, type MinutesLine } from "./changes";

type Finding = Schemas["FindingOut"];

/** Whose an action is and by when, beside its sentence: changed where it stands. */
export function Agreed({ line, action, tab }: { line: MinutesLine; action: Finding; tab: number }) {
  const { meeting } = useSpread();
  const change = useMinutesChange(meeting, keepPact(action.id));
  const was: Pact = { owner: action.owner, due: action.due };
  const agree = useAgree(was, change.mutate);
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
        <PactPress
          id={line.id}
          there={meeting.people.map((one) => one.name)}
          was={was}
          tab={tab}
          agree={agree}
        >
          {told}
        </PactPress>
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
