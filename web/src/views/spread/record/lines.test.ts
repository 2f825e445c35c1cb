import { describe, expect, it } from "vitest";
import { gather, lineAt, markWords } from "./lines";

const line = (number: number, start: number, end: number, text: string) => ({
  number,
  start,
  end,
  text,
  unsure: [],
  voice_unsure: false,
  overlap: false,
});
const turns = [
  {
    number: 1,
    voice: 1,
    start: 0,
    end: 4,
    language: "en",
    english: "",
    written: false,
    lines: [line(1, 0, 2, "a"), line(2, 2, 4, "b")],
  },
  {
    number: 2,
    voice: 2,
    start: 6,
    end: 8,
    language: "en",
    english: "",
    written: false,
    lines: [line(3, 6, 8, "c")],
  },
];

describe("lines", () => {
  it("finds what is being said, and in a silence what was said last", () => {
    const { all, turnOf } = gather(turns);
    expect([
      lineAt(all, 0)?.number,
      lineAt(all, 3)?.number,
      lineAt(all, 5)?.number,
      lineAt(all, 99)?.number,
    ]).toEqual([1, 2, 2, 3]);
    expect(lineAt(all, -1)).toBeUndefined();
    expect(turnOf.get(3)).toBe(1);
  });
  it("marks words by their beginning, whatever signs the search has in it", () => {
    expect(
      markWords("The sheeting, and the sheets.", "sheet -dog (")
        .filter((piece) => piece.hit)
        .map((piece) => piece.text),
    ).toEqual(["sheeting", "sheets"]);
    expect(markWords("¿El pasaporte?", "pasaporte")[1]).toEqual({ text: "pasaporte", hit: true });
    expect(markWords("nothing", "-nothing")).toEqual([{ text: "nothing", hit: false }]);
  });
});
