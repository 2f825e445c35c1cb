import type { Schemas } from "../api/client";

export const VIEWS = ["open", "stands", "changed", "forgotten", "closed"] as const;
export type View = (typeof VIEWS)[number];

/** What of the ledger is asked for, as the API takes it; it stands in the address. */
export interface LedgerAsked {
  view: View;
  mine?: boolean;
  nobody?: boolean;
  person?: number;
  series?: number;
  words?: string;
  since?: string;
}

const DAYS = 14;

/** Two weeks ago: what is new is asked for since then, where nothing else is said. */
export function lately(now = new Date()): string {
  return new Date(now.getTime() - DAYS * 86_400_000).toISOString().slice(0, 10);
}

/** Read from an address; what makes no sense there is left out. */
export function askedIn(params: URLSearchParams): LedgerAsked {
  const view = VIEWS.find((one) => one === params.get("view")) ?? "open";
  const number = (name: string) => {
    const value = Number(params.get(name));
    return Number.isInteger(value) && value > 0 ? { [name]: value } : {};
  };
  const whose = params.get("whose");
  const words = params.get("words")?.trim();
  const since = params.get("since") ?? "";
  return {
    view,
    ...(whose === "mine" && { mine: true }),
    ...(whose === "nobody" && { nobody: true }),
    ...number("person"),
    ...number("series"),
    ...(words && { words }),
    ...(view === "changed" && { since: /^\d{4}-\d{2}-\d{2}$/u.test(since) ? since : lately() }),
  };
}

/** Is it narrowed to less than the view? */
export const isNarrowed = ({ mine, nobody, person, series, words }: LedgerAsked) =>
  Boolean(mine ?? nobody ?? person ?? series ?? words);

export type Heap = "late" | "soon" | "later" | "never";

/** How near the day of an action is. today: as yyyy-mm-dd, and the day a week later. */
export function heapOf(due: string | null, today: string, inAWeek: string): Heap {
  if (due === null) return "never";
  if (due < today) return "late";
  return due <= inAWeek ? "soon" : "later";
}

export type Matter = Schemas["LedgerMatterOut"];
export type Step = Schemas["LedgerStepOut"];
