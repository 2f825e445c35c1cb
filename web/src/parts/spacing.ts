/** How words stand beside each other: with a space, or, in the scripts that have none, without. There a letter counts as a word. The
 * server counts them in the same way, in `core/record/spacing.py`. */
const LETTER =
  "(?:(?=[\\p{L}\\p{N}])[\\p{Script=Han}\\p{Script=Hiragana}\\p{Script=Katakana}\\u30fc\\uff70\\p{Script=Thai}\\p{Script=Lao}\\p{Script=Myanmar}\\p{Script=Khmer}])";
const SIGNS = "[^\\p{L}\\p{N}\\p{M}_\\s]*";
const WORD = new RegExp(`${SIGNS}${LETTER}\\p{M}*${SIGNS}|(?:(?!${LETTER})\\S)+`, "gu");
const BEGINS = new RegExp(`^${LETTER}`, "u");
const ALONE = new RegExp(`^${SIGNS}$`, "u");
const ENDS = new RegExp(`${LETTER}\\p{M}*${SIGNS}$`, "u");

/** Where the words of a text stand, each with its signs: from, and up to, which character. */
export const placesOf = (text: string): [number, number][] =>
  [...text.matchAll(WORD)].map((word) => [word.index, word.index + word[0].length]);

/** The words of a text, each with its signs. */
export const wordsIn = (text: string): string[] => text.match(WORD) ?? [];

/** Words as they stand in a line of text. Signs before a word would go to the one before it, and a sign that stands alone to its neighbours. */
export function written(words: readonly string[]): string {
  return words.reduce((text, word, index) => {
    const before = words[index - 1] ?? "";
    const unspaced = BEGINS.test(word) || (ENDS.test(before) && /^[\p{L}\p{N}]/u.test(word));
    return !text || (unspaced && !ALONE.test(before)) ? text + word : `${text} ${word}`;
  }, "");
}
