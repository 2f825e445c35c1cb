import { useState } from "react";
import { useChoices } from "../api/hooks";
import { t } from "../texts";
import { Field } from "./field";
import { Foot } from "./leaf";

/** Whose an action is, and by when. */
export interface Pact {
  owner: string | null;
  due: string | null;
}

/** To say whose it is and by when. */
export function PactForm({
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
