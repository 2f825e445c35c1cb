import { describe, expect, it } from "vitest";
import { proposeStart, proposeTitle } from "./when";

const changed = new Date(2026, 9, 6, 12, 0).getTime();

describe("when a file began", () => {
  it.each([
    ["2026-10-05 11.00 Works meeting.m4a", new Date(2026, 9, 5, 11, 0)],
    ["rec_20261005_143000.wav", new Date(2026, 9, 5, 14, 30)],
    ["2026-10-05T09-15.opus", new Date(2026, 9, 5, 9, 15)],
  ])("is read from %s", (name, expected) =>
    expect(proposeStart(name, changed, null, 600)).toEqual(expected),
  );

  it("is the last change less the length, on the day the name says", () => {
    expect(proposeStart("talk.mp3", changed, null, 1800)).toEqual(new Date(2026, 9, 6, 11, 30));
    expect(proposeStart("2026-10-01 talk.mp3", changed, null, 1800)).toEqual(
      new Date(2026, 9, 1, 11, 30),
    );
  });

  it("is what the recording says of itself", () =>
    expect(proposeStart("talk.m4a", changed, "2026-09-30T08:00:00Z", 60).toISOString()).toBe(
      "2026-09-30T08:00:00.000Z",
    ));
});

it.each([
  ["2026-10-05 11.00 Works_meeting.m4a", "Works meeting"],
  ["frost-night.wav", "frost night"],
  ["20261005.wav", "20261005"],
])("titles %s as %s", (name, title) => expect(proposeTitle(name)).toBe(title));
