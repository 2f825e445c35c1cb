import { useState, type ReactNode } from "react";
import type { Schemas } from "../../api/client";
import { useNarrow } from "../../api/hooks";
import { Choose } from "../../parts/choose";
import { Field } from "../../parts/field";
import { showDateOfYear } from "../../parts/time";
import { locale, t } from "../../texts";
import { HOLDS, PLACES, WHOSE, type Holds, type Wanted } from "../../parts/wanted";

const named = new Intl.DisplayNames(locale, { type: "language", fallback: "code" });
const nameOf = (all: Schemas["NamedOut"][] | undefined, id: number | undefined) =>
  all?.find((one) => one.id === id)?.name ?? t.library.somebody;

const options = (all: [string, string | undefined][]): Record<string, string | undefined> => ({
  "": t.library.any,
  ...Object.fromEntries<string | undefined>(all),
});

/** Everything that it is narrowed to, each with the way back. */
export function chips(
  wanted: Wanted,
  choices: Schemas["NarrowOut"] | undefined,
): [string, Wanted][] {
  const { person, speaking, series, shelf, since, until, place, language, whose, only, holds } =
    wanted;
  const without = (...names: (keyof Wanted)[]): Wanted => {
    const next = { ...wanted };
    for (const name of names) if (name !== "holds") delete next[name];
    return next;
  };
  const found: [string, Wanted][] = [];
  const { chips: said } = t.library;
  if (person !== undefined) {
    const name = nameOf(choices?.people, person);
    found.push([
      speaking ? said.speaking({ name }) : said.person({ name }),
      without("person", "speaking"),
    ]);
  }
  if (series !== undefined)
    found.push([said.series({ name: nameOf(choices?.series, series) }), without("series")]);
  if (shelf !== undefined)
    found.push([said.shelf({ name: nameOf(choices?.shelves, shelf) }), without("shelf")]);
  if (since) found.push([said.since({ day: showDateOfYear(since) }), without("since")]);
  if (until) found.push([said.until({ day: showDateOfYear(until) }), without("until")]);
  if (only) found.push([said.only({ n: only.length }), without("only")]);
  if (place) found.push([t.library.places[place], without("place")]);
  if (whose) found.push([t.library.whoseIs[whose], without("whose")]);
  if (language)
    found.push([said.language({ name: named.of(language) ?? language }), without("language")]);
  for (const one of holds)
    found.push([
      said.holds({ what: t.library.with[one] }),
      { ...wanted, holds: holds.filter((other) => other !== one) },
    ]);
  return found;
}

/** What it is narrowed to, each of which can be taken off; and narrowing it. */
export function Narrow({
  wanted,
  set,
  children,
}: {
  wanted: Wanted;
  set: (wanted: Wanted) => void;
  /** What else can be done with it. */
  children: ReactNode;
}) {
  const [open, setOpen] = useState(false);
  const choices = useNarrow().data;
  const all = chips(wanted, choices);
  const change = (part: { [Name in keyof Wanted]?: Wanted[Name] | undefined }) => {
    const said = Object.entries({ ...wanted, ...part }).filter(
      ([, value]) => value !== undefined && value !== "",
    );
    set({ holds: wanted.holds, ...Object.fromEntries(said) });
  };
  const listed = (all: Schemas["NamedOut"][] = []) =>
    options(all.map((one) => [String(one.id), one.name]));
  return (
    <div className="mb-5">
      <div className="flex flex-wrap items-baseline gap-2">
        <button
          type="button"
          className="press py-1 text-sm"
          aria-expanded={open}
          onClick={() => setOpen(!open)}
        >
          {t.library.narrow}
        </button>
        {all.map(([what, next]) => (
          <button
            key={what}
            type="button"
            className="border-b-2 border-brass bg-glow px-2 py-1 text-sm hover:bg-wash"
            aria-label={t.library.off({ what })}
            title={t.library.off({ what })}
            onClick={() => set(next)}
          >
            {what} <span aria-hidden>×</span>
          </button>
        ))}
        <span className="grow" />
        {children}
      </div>
      {open && (
        <div className="sheet mt-3 grid gap-x-5 gap-y-3 p-4 sm:grid-cols-2 lg:grid-cols-3">
          <div>
            <Choose
              id="narrow-person"
              label={t.library.person}
              value={String(wanted.person ?? "")}
              change={(id) =>
                change({
                  person: Number(id) || undefined,
                  speaking: id ? wanted.speaking : undefined,
                })
              }
              options={listed(choices?.people)}
            />
            {wanted.person !== undefined && (
              <label className="mt-1 flex items-center gap-2 py-1 text-sm">
                <input
                  type="checkbox"
                  className="size-4 accent-slate"
                  checked={wanted.speaking ?? false}
                  onChange={(event) => change({ speaking: event.target.checked || undefined })}
                />
                {t.library.speaking}
              </label>
            )}
          </div>
          <Choose
            id="narrow-series"
            label={t.library.series}
            value={String(wanted.series ?? "")}
            change={(id) => change({ series: Number(id) || undefined })}
            options={listed(choices?.series)}
          />
          <Choose
            id="narrow-shelf"
            label={t.library.shelf}
            value={String(wanted.shelf ?? "")}
            change={(id) => change({ shelf: Number(id) || undefined })}
            options={listed(choices?.shelves)}
          />
          <Choose
            id="narrow-place"
            label={t.library.place}
            value={wanted.place ?? ""}
            change={(place) => change({ place: PLACES.find((one) => one === place) })}
            options={options(
              PLACES.filter((one) => choices?.places.includes(one)).map((one) => [
                one,
                t.library.places[one],
              ]),
            )}
          />
          <div className="grid grid-cols-2 gap-3">
            {(["since", "until"] as const).map((name) => (
              <Field key={name} label={t.library[name]} htmlFor={`narrow-${name}`}>
                <input
                  id={`narrow-${name}`}
                  type="date"
                  className="field"
                  value={wanted[name] ?? ""}
                  onChange={(event) => change({ [name]: event.target.value || undefined })}
                />
              </Field>
            ))}
          </div>
          <Choose
            id="narrow-language"
            label={t.library.language}
            value={wanted.language ?? ""}
            change={(code) => change({ language: code || undefined })}
            options={options((choices?.languages ?? []).map((code) => [code, named.of(code)]))}
          />
          <Choose
            id="narrow-whose"
            label={t.library.whose}
            value={wanted.whose ?? ""}
            change={(whose) => change({ whose: WHOSE.find((one) => one === whose) })}
            options={options(WHOSE.map((one) => [one, t.library.whoseIs[one]]))}
          />
          <fieldset>
            <legend className="mb-1 font-serif text-sm">{t.library.holds}</legend>
            <div className="grid grid-cols-2 gap-x-3">
              {HOLDS.map((one: Holds) => (
                <label key={one} className="flex items-center gap-2 py-1 text-sm">
                  <input
                    type="checkbox"
                    className="size-4 accent-slate"
                    checked={wanted.holds.includes(one)}
                    onChange={(event) =>
                      change({
                        holds: HOLDS.filter((other) =>
                          other === one ? event.target.checked : wanted.holds.includes(other),
                        ),
                      })
                    }
                  />
                  {t.library.with[one]}
                </label>
              ))}
            </div>
          </fieldset>
        </div>
      )}
    </div>
  );
}
