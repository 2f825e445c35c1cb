import { useState } from "react";
import { Link } from "react-router";
import { client, the, type Schemas } from "../../api/client";
import { keys, useChange, useKeptSearches } from "../../api/hooks";
import { Field } from "../../parts/field";
import { Leaf } from "../../parts/leaf";
import { useSay } from "../../parts/sayings";
import { Wrong } from "../../parts/states";
import { addressOf, narrowTo, type Wanted } from "../../parts/wanted";
import { t } from "../../texts";

/** The searches that I keep, each with how much is new. */
export function Kept() {
  const kept = useKeptSearches().data;
  const say = useSay();
  const seen = useChange(
    (id: number) =>
      the(client.POST("/api/searches/{kept_id}/seen", { params: { path: { kept_id: id } } })),
    keys.keptSearches,
  );
  const keep = useChange(
    (body: Schemas["KeptSearchIn"]) => the(client.POST("/api/searches", { body })),
    keys.keptSearches,
  );
  const letGo = useChange(
    (one: Schemas["KeptSearchOut"]) =>
      the(client.DELETE("/api/searches/{kept_id}", { params: { path: { kept_id: one.id } } })),
    keys.keptSearches,
  );
  if (!kept?.length) return null;
  return (
    <nav
      aria-label={t.library.kept}
      className="mb-4 flex flex-wrap items-baseline gap-x-4 gap-y-1 text-sm"
    >
      <span className="text-faded">{t.library.kept}:</span>
      {kept.map((one) => (
        <span key={one.id} className="flex items-baseline">
          <Link to={addressOf(one)} className="cite" onClick={() => seen.mutate(one.id)}>
            {one.name}
            {one.new > 0 && <b className="pl-1.5">{t.library.keptNew({ n: one.new })}</b>}
          </Link>
          <button
            type="button"
            className="plain px-1.5"
            aria-label={t.library.letGo({ name: one.name })}
            title={t.library.letGo({ name: one.name })}
            onClick={() =>
              letGo.mutate(one, {
                onSuccess: () => say(t.library.letGone, () => keep.mutate(one)),
              })
            }
          >
            ×
          </button>
        </span>
      ))}
    </nav>
  );
}

/** Keep what is looked for, under a name. */
export function Keep({ words, wanted }: { words: string; wanted: Wanted }) {
  const [open, setOpen] = useState(false);
  const [name, setName] = useState("");
  const [tells, setTells] = useState(false);
  const say = useSay();
  const keep = useChange(
    () =>
      the(
        client.POST("/api/searches", {
          body: {
            name,
            words,
            tells,
            wanted: narrowTo(wanted),
          },
        }),
      ),
    keys.keptSearches,
  );
  return (
    <>
      <button
        type="button"
        className="press py-1 text-sm"
        onClick={() => {
          setName(words);
          setOpen(true);
        }}
      >
        {t.library.keep}
      </button>
      {open && (
        <Leaf title={t.library.keep} close={() => setOpen(false)}>
          <form
            onSubmit={(event) => {
              event.preventDefault();
              keep.mutate(undefined, {
                onSuccess: () => {
                  setOpen(false);
                  say(t.library.keptNow);
                },
              });
            }}
          >
            <Field label={t.library.keepName} htmlFor="kept-name">
              <input
                id="kept-name"
                required
                maxLength={120}
                className="field"
                value={name}
                onChange={(event) => setName(event.target.value)}
              />
            </Field>
            <label className="mt-3 flex items-center gap-2">
              <input
                type="checkbox"
                className="size-4 accent-slate"
                checked={tells}
                onChange={(event) => setTells(event.target.checked)}
              />
              {t.library.keepTells}
            </label>
            <Wrong error={keep.error} className="mt-2" />
            <p className="mt-4 flex gap-3">
              <button type="submit" className="press press-main" disabled={keep.isPending}>
                {t.library.keep}
              </button>
              <button type="button" className="press" onClick={() => setOpen(false)}>
                {t.library.keepIt}
              </button>
            </p>
          </form>
        </Leaf>
      )}
    </>
  );
}
