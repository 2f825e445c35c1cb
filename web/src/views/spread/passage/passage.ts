import { client, the } from "../../../api/client";
import { placesOf } from "../../../parts/spacing";
import type { Line } from "../record/lines";

/** From a word of a line to one of the same or a later line; the last word may be -1, which is the line's last. */
export interface Passage {
  first: [number, number];
  last: [number, number];
  text: string;
  start: number;
  end: number;
}

/** The words of the record that are selected on the page; null where none are. */
export function selected(page: HTMLElement | null, lines: Line[]): Passage | null {
  const selection = getSelection();
  if (!page || !selection || selection.isCollapsed || !selection.rangeCount) return null;
  const range = selection.getRangeAt(0);
  const drawn = [...page.querySelectorAll<HTMLElement>("[data-line]")].filter((line) =>
    range.intersectsNode(line),
  );
  const touched = drawn.map((line) => inLine(line, range)).filter((one) => one !== null);
  const [first, last] = [touched[0], touched.at(-1)];
  if (!first || !last) return null;
  const known = (number: number) => lines.find((line) => line.number === number);
  const [from, to] = [known(first.line), known(last.line)];
  if (!from || !to) return null;
  return {
    first: [first.line, first.begin],
    last: [last.line, last.end],
    text: selection.toString().replace(/\s+/gu, " ").trim(),
    start: from.start,
    end: to.end,
  };
}

/** Which words of a line a range touches: the first and the last of them, counted from 0. */
export function inLine(
  line: HTMLElement,
  range: Range,
): { line: number; begin: number; end: number } | null {
  const whole = document.createRange();
  whole.selectNodeContents(line);
  const inside = range.cloneRange();
  if (range.compareBoundaryPoints(Range.START_TO_START, whole) < 0)
    inside.setStart(whole.startContainer, whole.startOffset);
  if (range.compareBoundaryPoints(Range.END_TO_END, whole) > 0)
    inside.setEnd(whole.endContainer, whole.endOffset);
  const text = inside.toString();
  if (!text.trim()) return null;
  const before = document.createRange();
  before.setStart(whole.startContainer, whole.startOffset);
  before.setEnd(inside.startContainer, inside.startOffset);
  // Of a word that is touched in its middle all of it counts.
  const first = before.toString().length;
  const touched = placesOf(whole.toString())
    .map(([start, end], index) => (start < first + text.length && end > first ? index : -1))
    .filter((index) => index >= 0);
  return { line: Number(line.dataset.line), begin: touched[0]!, end: touched.at(-1)! };
}

/** A whole line as a passage. */
export const ofLine = (line: Line): Passage => ({
  first: [line.number, 0],
  last: [line.number, -1],
  text: line.text,
  start: line.start,
  end: line.end,
});

export interface Said {
  line: number;
  words: [string, number, number][];
}

/** The words of the lines between two seconds, each with its times. */
export const askWords = (meeting: string, start: number, end: number) =>
  the(
    client.GET("/api/meetings/{meeting_id}/record/words", {
      params: { path: { meeting_id: meeting }, query: { start: Math.max(0, start), end } },
    }),
  ) as unknown as Promise<Said[]>;

/** The passage with the times of its own words instead of its lines'. */
export async function timed(meeting: string, passage: Passage): Promise<Passage> {
  const said = await askWords(
    meeting,
    passage.start - 0.01,
    Math.min(passage.end + 0.01, passage.start + 599),
  );
  const first = said.find((one) => one.line === passage.first[0])?.words.at(passage.first[1]);
  const last = said.find((one) => one.line === passage.last[0])?.words.at(passage.last[1]);
  return { ...passage, start: first?.[1] ?? passage.start, end: last?.[2] ?? passage.end };
}

/** The index of the word said at a second, -1 before the first. */
export function wordAt(words: Said["words"], seconds: number): number {
  return words.findLastIndex(([, start]) => start <= seconds + 0.03);
}
