import { expect, test } from "vitest";
import { lots } from "./strip";

test("findings that would hide one another are one lot, each kind by itself", () => {
  const at = (kind: string, start: number) => ({ kind, start });
  const hour = 3600;
  // An hour on an axis of 110 glyphs: 32.7 s each.
  expect(
    lots(
      [at("action", 10), at("decision", 12), at("action", 40), at("action", 43), at("action", 80)],
      hour,
    ),
  ).toEqual([
    [at("action", 10), at("action", 40)],
    [at("decision", 12)],
    [at("action", 43)],
    [at("action", 80)],
  ]);
});
