import { expect, test } from "vitest";
import type { Schemas } from "../../../api/client";
import { namedIn } from "./named";

const voice = (id: number, name: string, named = true) =>
  ({ id, name, named }) as Schemas["VoiceOut"];
const turn = (voice: number, ...texts: string[]) =>
  ({
    voice,
    lines: texts.map((text, index) => ({ text, start: 10 * voice + index })),
  }) as Schemas["TurnOut"];

test("who is named by another, by the whole name or an unmistakable first one", () => {
  const voices = [
    voice(1, "Maren Tollefsen"),
    voice(2, "Pavel Drozd"),
    voice(3, "Pavel Orlow"),
    voice(4, "Voice D", false),
  ];
  const turns = [
    turn(1, "Maren here. Pavel, Pavel Drozd?", "Voice D is loud."),
    turn(2, "Maren, Marens, Maren!", "Unmarened"),
    turn(4, "Ask Pavel Orlow."),
  ];
  expect(namedIn(turns, voices).map((one) => [one.name, one.start])).toEqual([
    ["Pavel Drozd", 10],
    ["Maren Tollefsen", 20],
    ["Pavel Orlow", 40],
  ]);
  expect(namedIn(turns, [])).toEqual([]);
});
