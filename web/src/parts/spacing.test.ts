import { expect, test } from "vitest";
import { placesOf, wordsIn, written } from "./spacing";

// The same as in tests/core/test_spacing.py.
const KNOWN: [string, number][] = [
  ["We meet, at “Larkmoor” house.", 5],
  ["天地玄黄,宇宙洪荒。", 8],
  ["我用Python写3月的", 7],
  ["「いろは」にほへと散りぬるを。", 12],
  ["サーバー、ｶﾞ", 6],
  ["สวัสดีครับ", 7],
  ["½ cup — or so", 5],
];

test.each(KNOWN)("%s has %i words, which are written as they were", (text, count) => {
  expect(wordsIn(text)).toHaveLength(count);
  expect(written(wordsIn(text))).toBe(text);
  expect(placesOf(text).map(([first, end]) => text.slice(first, end))).toEqual(wordsIn(text));
});
