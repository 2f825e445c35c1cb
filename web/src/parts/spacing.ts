import { LETTER, MARK, SPACE, WORDLY } from "./spacing.table";

/** How words stand beside each other: with a space, or, in the scripts that have none, without. There a letter counts as a word. The
 *  server counts them in the same way, in `core/record/spacing.py`, from which the table of characters comes. */
const SIGNS = `[^${WORDLY}${SPACE}${MARK}]*`;
const UNSPACED = `[${LETTER}][${MARK}]*`;
const WORD = new RegExp(`${SIGNS}${UNSPACED}${SIGNS}|[^${LETTER}${SPACE}]+`, "gu");
const BEGINS = new RegExp(`^[${LETTER}]`, "u");
const ALONE = new RegExp(`^${SIGNS}$`, "u");
const ENDS = new RegExp(`${UNSPACED}${SIGNS}$`, "u");
const ALNUM = new RegExp(`^(?!_)[${WORDLY}]`, "u");

/** Where the words of a text stand, each with its signs: from, and up to, which character. */
export const placesOf = (text: string): [number, number][] =>
  [...text.matchAll(WORD)].map((word) => [word.index, word.index + word[0].length]);

/** The words of a text, each with its signs. */
export const wordsIn = (text: string): string[] => text.match(WORD) ?? [];

/** Words as they stand in a line of text. Signs before a word would go to the one before it, and a sign that stands alone to its neighbours. */
export function written(words: readonly string[]): string {
  return words.reduce((text, word, index) => {
    const before = words[index - 1] ?? "";
    const unspaced = BEGINS.test(word) || (ENDS.test(before) && ALNUM.test(word));
    return !text || (unspaced && !ALONE.test(before)) ? text + word : `${text} ${word}`;
  }, "");
}
