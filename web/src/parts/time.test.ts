import { describe, expect, it } from "vitest";
import { clock, showLeft, weekOf } from "./time";

describe("times", () => {
  it("writes hours only where there are some", () => {
    expect([clock(0), clock(67.9), clock(3847)]).toEqual(["0:00", "1:07", "1:04:07"]);
  });
  it("puts a Sunday into the week of the Monday before", () => {
    expect(weekOf("2026-11-22T12:00:00").key).toBe(weekOf("2026-11-16T12:00:00").key);
    expect(weekOf("2026-11-23T12:00:00").key).not.toBe(weekOf("2026-11-22T12:00:00").key);
  });
  it("rounds what is left to what can be believed", () => {
    expect([showLeft(2), showLeft(61), showLeft(200)]).toEqual([
      "5 seconds",
      "65 seconds",
      "3 minutes",
    ]);
  });
});
