import type { Schemas } from "../api/client";
import { zone } from "./time";

export type Holds = NonNullable<Schemas["NarrowIn"]["holds"]>[number];
export type Whose = NonNullable<Schemas["NarrowIn"]["whose"]>;
export type Place = NonNullable<Schemas["NarrowIn"]["place"]>;

/** To what the meetings are narrowed: as the address of the page says it, so that it can be sent to a colleague. */
export interface Wanted {
  person?: number;
  speaking?: true;
  series?: number;
  shelf?: number;
  since?: string;
  until?: string;
  place?: Place;
  language?: string;
  whose?: Whose;
  /** Chosen one by one. */
  only?: string[];
  holds: Holds[];
}

export const PLACES = ["room", "online", "file", "memo"] as const satisfies Place[];
export const WHOSE = ["mine", "shared"] as const satisfies Whose[];
export const HOLDS = ["decisions", "open actions", "questions", "sound"] as const satisfies Holds[];

const key = /^[\da-f]{8}(-[\da-f]{4}){3}-[\da-f]{12}$/;
const day = /^\d{4}-\d\d-\d\d$/;
const oneOf = <One extends string>(all: readonly One[], value: string | null) =>
  all.find((one) => one === value);

/** What an address says; what it says wrongly is left out. */
export function wantedIn(params: URLSearchParams): Wanted {
  const number = (name: string) => Number(params.get(name)) || undefined;
  const date = (name: string) => day.exec(params.get(name) ?? "")?.[0];
  const person = number("person");
  const found = {
    person,
    speaking: person && params.get("speaking") ? (true as const) : undefined,
    series: number("series"),
    shelf: number("shelf"),
    since: date("since"),
    until: date("until"),
    place: oneOf(PLACES, params.get("place")),
    language: params.get("language") ?? undefined,
    whose: oneOf(WHOSE, params.get("whose")),
  };
  const only = params.getAll("only").filter((one) => key.test(one));
  const said = Object.entries({ ...found, only: only.length ? only : undefined }).filter(
    ([, value]) => value !== undefined,
  );
  return {
    ...(Object.fromEntries(said) as Omit<Wanted, "holds">),
    holds: HOLDS.filter((one) => params.getAll("holds").includes(one)),
  };
}

/** An address that says this; what else it says stays. */
export function withWanted(params: URLSearchParams, wanted: Wanted): URLSearchParams {
  const next = new URLSearchParams(params);
  for (const name of [
    "person",
    "speaking",
    "series",
    "shelf",
    "since",
    "until",
    "place",
    "language",
    "whose",
    "only",
  ])
    next.delete(name);
  next.delete("holds");
  for (const [name, value] of Object.entries(wanted))
    for (const one of Array.isArray(value) ? value : [value])
      if (one !== undefined && one !== "") next.append(name, String(one));
  return next;
}

/** Is it narrowed to anything? */
export const isNarrow = ({ holds, ...rest }: Wanted) =>
  holds.length > 0 || Object.keys(rest).length > 0;

/** The same as the API takes it. */
export const narrowTo = (wanted: Wanted): Schemas["NarrowIn"] => ({
  speaking: false,
  language: "",
  only: [],
  ...wanted,
  time_zone: zone(),
});

/** The same as it was kept. */
export function wantedOf(kept: Schemas["NarrowIn"]): Wanted {
  const known = Object.entries(kept).filter(
    ([name, value]) => name !== "time_zone" && value !== null && value !== false && String(value),
  );
  return { holds: [], ...Object.fromEntries(known) };
}

/** The address of a search that is kept. */
export const addressOf = ({ words, wanted }: Schemas["KeptSearchOut"]) =>
  `/library?${withWanted(new URLSearchParams(words && { q: words }), wantedOf(wanted))}`;
