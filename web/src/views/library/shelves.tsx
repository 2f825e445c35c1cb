import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { client, failed, the, type Schemas } from "../../api/client";
import { keys, useChange, useMe, useShelves } from "../../api/hooks";
import { may } from "../../api/rights";
import { Field } from "../../parts/field";
import { Foot, Leaf } from "../../parts/leaf";
import { Empty, Trouble, Wait, Wrong } from "../../parts/states";
import { t } from "../../texts";

/** The shelves that I know of: those where I have a place, and those that are open. */
export function Shelves() {
  const shelves = useShelves();
  const me = useMe().data;
  const go = useNavigate();
  const [making, setMaking] = useState(false);
  const make = useChange(
    (body: Schemas["ShelfIn"]) => the(client.POST("/api/shelves", { body })),
    keys.shelves,
    keys.narrow,
  );
  const list = () => {
    if (failed(shelves))
      return <Trouble error={shelves.error} again={() => void shelves.refetch()} />;
    if (shelves.isPending) return <Wait />;
    if (!shelves.data.length) return <Empty>{t.shelves.none}</Empty>;
    const heaps = [
      [t.shelves.mine, shelves.data.filter((one) => one.mine)],
      [t.shelves.others, shelves.data.filter((one) => !one.mine)],
    ] as const;
    return heaps
      .filter(([, own]) => own.length > 0)
      .map(([heading, own]) => (
        <section key={heading} className="mb-6">
          <h2 className="mb-1.5 text-sm text-faded italic">{heading}</h2>
          <ul className="sheet px-4">
            {own.map((one) => (
              <li key={one.id} className="border-b border-rule py-3 last:border-0">
                <Link
                  to={`/shelves/${one.id}`}
                  className="font-serif underline-offset-4 hover:underline"
                >
                  {one.name}
                </Link>
                <p className="text-sm text-faded">
                  {[
                    one.about,
                    one.closed ? t.shelves.closed : t.shelves.open,
                    t.shelves.places({ n: one.places }),
                    t.shelves.count({ n: one.meetings }),
                  ]
                    .filter(Boolean)
                    .join(" · ")}
                </p>
              </li>
            ))}
          </ul>
        </section>
      ));
  };
  return (
    <div className="mx-auto w-full max-w-[70rem] px-4 py-8 sm:px-6">
      <div className="mb-4 flex flex-wrap items-baseline gap-x-6">
        <h1 className="text-2xl">{t.shelves.title}</h1>
        <span className="grow" />
        {me && may(me, "arrange") && (
          <button type="button" className="press" onClick={() => setMaking(true)}>
            {t.shelves.make}
          </button>
        )}
      </div>
      <p className="mb-4 max-w-prose text-sm text-faded">{t.shelves.hint}</p>
      {list()}
      {making && (
        <ShelfForm
          title={t.shelves.make}
          was={{ name: "", about: "", closed: false }}
          error={make.error}
          keep={(body) =>
            make.mutate(body, { onSuccess: (made) => void go(`/shelves/${made.id}`) })
          }
          close={() => setMaking(false)}
        />
      )}
    </div>
  );
}

/** How a shelf is called, what it is for, and whether it is open. */
export function ShelfForm({
  title,
  was,
  error,
  keep,
  close,
}: {
  title: string;
  was: { name: string; about: string; closed: boolean };
  error: Error | null;
  keep: (shelf: { name: string; about: string; closed: boolean }) => void;
  close: () => void;
}) {
  const [shelf, setShelf] = useState(was);
  return (
    <Leaf title={title} close={close}>
      <form
        className="mt-3 flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          keep(shelf);
        }}
      >
        <Field label={t.shelves.name} htmlFor="shelf-name">
          <input
            id="shelf-name"
            required
            maxLength={120}
            className="field"
            value={shelf.name}
            onChange={(event) => setShelf({ ...shelf, name: event.target.value })}
          />
        </Field>
        <Field label={t.shelves.about} htmlFor="shelf-about">
          <input
            id="shelf-about"
            maxLength={400}
            className="field"
            value={shelf.about}
            onChange={(event) => setShelf({ ...shelf, about: event.target.value })}
          />
        </Field>
        <fieldset>
          <legend className="sr-only">{t.shelves.who}</legend>
          {([false, true] as const).map((closed) => (
            <label key={String(closed)} className="flex items-baseline gap-2 py-1">
              <input
                type="radio"
                name="closed"
                className="accent-slate"
                checked={shelf.closed === closed}
                onChange={() => setShelf({ ...shelf, closed })}
              />
              <span>
                {closed ? t.shelves.closed : t.shelves.open}
                <span className="block text-sm text-faded">
                  {closed ? t.shelves.closedHint : t.shelves.openHint}
                </span>
              </span>
            </label>
          ))}
        </fieldset>
        <Wrong error={error} />
        <Foot className="flex gap-3" act={t.spread.save} off={!shelf.name.trim()} close={close} />
      </form>
    </Leaf>
  );
}
