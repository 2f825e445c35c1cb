import { useState } from "react";
import { client, the, type Schemas } from "../../api/client";
import { useChange, useMembers } from "../../api/hooks";
import { trust, useErasures, useKnownOf, useSomebody } from "../../api/trust";
import { Choose } from "../../parts/choose";
import { Field } from "../../parts/field";
import { Leaf } from "../../parts/leaf";
import { useSay } from "../../parts/sayings";
import { Empty, Trouble, Wait, Wrong } from "../../parts/states";
import { showDay } from "../../parts/time";
import { t } from "../../texts";

type Somebody = Schemas["SomebodyOut"];

/** Everything on one person, to be taken as a file, and to be erased. */
export function SomePerson() {
  const [q, setQ] = useState("");
  const [chosen, setChosen] = useState<Somebody | null>(null);
  const found = useSomebody(q).data;
  const erasures = useErasures().data ?? [];
  return (
    <section aria-labelledby="person">
      <h2 id="person" className="mb-1 text-lg">
        {t.person.title}
      </h2>
      <p className="mb-3 text-faded">{t.person.hint}</p>
      <div className="max-w-md">
        <Field label={t.person.find} htmlFor="person-name">
          <input
            id="person-name"
            type="search"
            className="field"
            value={q}
            onChange={(event) => {
              setQ(event.target.value);
              setChosen(null);
            }}
          />
        </Field>
      </div>
      {!chosen && q.trim().length > 1 && found?.length === 0 && <Empty>{t.person.none}</Empty>}
      {!chosen && q.trim().length > 1 && !!found?.length && (
        <ul className="sheet mt-3 max-w-2xl px-4">
          {found.map((one) => (
            <li key={one.id} className="border-b border-rule last:border-0">
              <button
                type="button"
                className="plain w-full py-2 text-left"
                onClick={() => setChosen(one)}
              >
                <span className="font-serif">{one.name}</span>{" "}
                <span className="text-sm text-faded">
                  {[one.organisation, one.email, t.person.counts.meetings({ n: one.meetings })]
                    .filter(Boolean)
                    .join(" · ")}
                </span>
              </button>
            </li>
          ))}
        </ul>
      )}
      {chosen && <Known key={chosen.id} person={chosen} done={() => (setChosen(null), setQ(""))} />}
      {erasures.length > 0 && (
        <>
          <h3 className="mt-6 mb-1 text-base">{t.person.erasures}</h3>
          <ul className="text-sm">
            {erasures.map((one) => (
              <li key={one.id}>
                {t.person.state({
                  day: showDay(one.asked_at),
                  by: one.by,
                  done: one.done,
                  n: one.meetings,
                })}
                {", "}
                {one.done_at ? t.person.done : t.person.open}
                {one.trouble && <span className="text-clay"> {one.trouble}</span>}
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}

function Known({ person, done }: { person: Somebody; done: () => void }) {
  const known = useKnownOf(person.id);
  const [erasing, setErasing] = useState(false);
  if (known.error) return <Trouble error={known.error} />;
  if (!known.data) return <Wait />;
  const { counts } = known.data;
  const told = (Object.keys(t.person.counts) as (keyof typeof t.person.counts)[]).flatMap((kind) =>
    counts[kind] || kind === "voice" ? [t.person.counts[kind]({ n: counts[kind] ?? 0 })] : [],
  );
  return (
    <div className="sheet mt-3 max-w-2xl p-5">
      <h3 className="font-serif text-base">{person.name}</h3>
      <p className="my-2">{told.join(", ")}</p>
      {known.data.held > 0 && (
        <p className="mb-2 text-clay">{t.person.held({ n: known.data.held })}</p>
      )}
      <p className="flex flex-wrap gap-3">
        <a className="press" href={`/api/rights/people/${person.id}/file`} download>
          {t.person.file}
        </a>
        <button
          type="button"
          className="press border-clay text-clay"
          disabled={known.data.held > 0}
          onClick={() => setErasing(true)}
        >
          {t.person.erase}
        </button>
      </p>
      <p className="mt-2 text-sm text-faded">{t.person.fileHint}</p>
      {erasing && (
        <Erase
          person={person}
          place={known.data.has_place}
          close={() => setErasing(false)}
          done={done}
        />
      )}
    </div>
  );
}

function Erase({
  person,
  place,
  close,
  done,
}: {
  person: Somebody;
  place: boolean;
  close: () => void;
  done: () => void;
}) {
  const say = useSay();
  const members = useMembers().data ?? [];
  const [words, setWords] = useState<"nameless" | "struck">("nameless");
  const [heir, setHeir] = useState("");
  const [name, setName] = useState("");
  const erase = useChange(
    () =>
      the(
        client.POST("/api/rights/people/{person_id}/erase", {
          params: { path: { person_id: person.id } },
          body: { struck: words === "struck", heir: heir ? Number(heir) : null, name },
        }),
      ),
    trust.people,
    trust.erasures,
    ["members"],
  );
  const heirs = members.filter((one) => one.email !== person.email && one.role !== "guest");
  return (
    <Leaf title={t.person.eraseTitle({ name: person.name })} close={close}>
      <form
        className="flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          erase.mutate(undefined, {
            onSuccess: () => {
              say(t.person.begun);
              done();
            },
          });
        }}
      >
        <p>{t.person.eraseHint}</p>
        <Choose
          id="erase-words"
          label={t.person.words}
          value={words}
          change={setWords}
          options={t.person.wordsOf}
        />
        {place && (
          <Choose
            id="erase-heir"
            label={t.person.heir}
            value={heir}
            change={setHeir}
            options={{
              "": t.person.stay,
              ...Object.fromEntries(heirs.map((one) => [String(one.id), one.name])),
            }}
          />
        )}
        <Field label={t.person.sign} hint={t.person.signHint} htmlFor="erase-name">
          <input
            id="erase-name"
            required
            autoComplete="off"
            className="field"
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </Field>
        <Wrong error={erase.error} />
        <p className="flex gap-3">
          <button type="submit" className="press border-clay text-clay" disabled={erase.isPending}>
            {t.person.erase}
          </button>
          <button type="button" className="press" onClick={close}>
            {t.spread.cancel}
          </button>
        </p>
      </form>
    </Leaf>
  );
}
