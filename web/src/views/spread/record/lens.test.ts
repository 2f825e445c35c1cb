import { expect, it } from "vitest";
import type { Schemas } from "../../../api/client";
import { lensed, through } from "./lens";
import { silencesOf } from "../sound/player";

const line = (number: number, text: string) => ({
  number,
  start: number,
  end: number + 1,
  text,
  unsure: [],
  voice_unsure: false,
  overlap: false,
});
const turns = [
  {
    number: 1,
    voice: 1,
    start: 1,
    end: 3,
    language: "",
    english: "",
    written: false,
    lines: [line(1, "Idris, the pump?"), line(2, "By Friday.")],
  },
  {
    number: 2,
    voice: 2,
    start: 3,
    end: 5,
    language: "",
    english: "",
    written: false,
    lines: [line(3, "Quaye's pump."), line(4, "Idrisi was a geographer.")],
  },
];
const findings = [
  { kind: "date", lines: [2] },
  { kind: "action", lines: [1, 3] },
] as Schemas["FindingOut"][];
const numbers = (lens: string) =>
  lensed(turns, through(lens, turns, findings)).flatMap((turn) =>
    turn.lines.map((one) => one.number),
  );

it("leaves the lines of a kind of finding, of a voice, or that name a person", () => {
  expect(numbers("all")).toEqual([1, 2, 3, 4]);
  expect(numbers("date")).toEqual([2]);
  expect(numbers("action")).toEqual([1, 3]);
  expect(numbers("figure")).toEqual([]);
  expect(numbers("voice:2")).toEqual([3, 4]);
  expect(numbers("named:Idris Quaye")).toEqual([1, 3]);
});

it("passes over silences, and never over a word", () => {
  const said = [
    { start: 3, end: 5 },
    { start: 5.5, end: 9 },
    { start: 8, end: 8.5 },
    { start: 12, end: 13 },
  ];
  expect(silencesOf(said)).toEqual([
    { start: 0, end: 2.75 },
    { start: 9.25, end: 11.75 },
  ]);
});
