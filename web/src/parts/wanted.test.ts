import { expect, test } from "vitest";
import { addressOf, isNarrow, wantedIn, withWanted } from "./wanted";

test("what is wanted stands in the address, and comes out of it as it went in", () => {
  const wanted = {
    person: 3,
    speaking: true as const,
    since: "2026-03-01",
    place: "room" as const,
    holds: ["decisions" as const, "sound" as const],
  };
  const params = withWanted(new URLSearchParams("q=glass&person=9&until=2026-01-01"), wanted);
  expect(params.get("q")).toBe("glass");
  expect(params.get("until")).toBeNull();
  expect(wantedIn(params)).toEqual(wanted);
});

test("what an address says wrongly is left out", () => {
  const params = new URLSearchParams(
    "person=x&speaking=true&since=yesterday&place=moon&holds=gold",
  );
  expect(wantedIn(params)).toEqual({ holds: [] });
  expect(isNarrow(wantedIn(params))).toBe(false);
  expect(isNarrow(wantedIn(new URLSearchParams("language=es")))).toBe(true);
});

test("a search that is kept leads to the address that it was kept from", () => {
  const kept = {
    id: 1,
    name: "Glass",
    words: "glass -putty",
    wanted: {
      person: 3,
      speaking: false,
      holds: ["sound" as const],
      only: [],
      language: "",
      time_zone: "UTC",
    },
    tells: false,
    new: 0,
  };
  expect(addressOf(kept)).toBe("/library?q=glass+-putty&holds=sound&person=3");
});
