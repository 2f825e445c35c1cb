import type { Schemas } from "../../../api/client";

export type Turn = Schemas["TurnOut"];
export type Line = Schemas["LineOut"];

/** All lines of a record in order, and where each is: number → index of its turn. */
export interface Lines {
  all: Line[];
  turnOf: Map<number, number>;
}

export function gather(turns: Turn[]): Lines {
  const turnOf = new Map<number, number>();
  const all = turns.flatMap((turn, index) =>
    turn.lines.map((line) => (turnOf.set(line.number, index), line)),
  );
  return { all, turnOf };
}

/** The line said at a second, or the last one before it; undefined before the first. */
export function lineAt(all: Line[], seconds: number): Line | undefined {
  let [low, high] = [0, all.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (all[middle]!.start <= seconds + 0.05) low = middle + 1;
    else high = middle;
  }
  return all[low - 1];
}

/** A text in pieces, those that a search's words begin marked. Quoted phrases count as their words; -excluded ones do not count. */
export function markWords(text: string, search: string): { text: string; hit: boolean }[] {
  const words = search
    .split(/\s+/)
    .filter((word) => !word.startsWith("-"))
    .map((word) => word.replace(/[^\p{L}\p{N}'’]/gu, ""))
    .filter((word) => word.length > 1 && word.toLowerCase() !== "or");
  if (!words.length) return [{ text, hit: false }];
  // The server searches by stem; the beginning of a word is near enough for showing where.
  const stems = words.map((word) =>
    word.length > 4 ? word.replace(/(?:ies|ing|ed|es|s|e)$/u, "") : word,
  );
  const pattern = new RegExp(`(?<![\\p{L}\\p{N}])((?:${stems.join("|")})[\\p{L}'’]*)`, "giu");
  return text
    .split(pattern)
    .map((piece, index) => ({ text: piece, hit: index % 2 === 1 }))
    .filter((piece) => piece.text);
}

/** Has a line all the words that are looked for, in whatever order? Those in quotation marks follow one another. */
export function has(text: string, search: string): boolean {
  const plain = text.toLocaleLowerCase();
  const phrases = [...search.matchAll(/["“]([^"”]+)["”]?/gu)].map((match) => match[1]!.trim());
  const words = search.replace(/["“][^"”]*["”]?/gu, " ").split(/\s+/u);
  return (
    phrases.every((phrase) => plain.includes(phrase.toLocaleLowerCase())) &&
    words
      .filter((word) => /[\p{L}\p{N}]/u.test(word))
      .every(
        (word) =>
          markWords(text, word).some((piece) => piece.hit) ||
          plain.includes(word.toLocaleLowerCase()),
      )
  );
}

/** The lines in which a search finds something. */
export function hitsOf(all: Line[], find: string): Line[] {
  const wanted = find.trim();
  return wanted ? all.filter((line) => has(line.text, wanted)) : [];
}
