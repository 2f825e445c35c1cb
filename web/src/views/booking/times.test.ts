import { expect, test } from "vitest";
import { byDay, clockOf, minutesOf } from "./times";

test("moments fall onto the days of whoever looks, also where their clocks have been put forward", () => {
  // 29 March 2026: clocks go forward in London, and not in New York, where they went on 8 March.
  const moments = ["2026-03-28T09:00:00Z", "2026-03-29T08:00:00Z", "2026-03-30T03:30:00Z"];
  expect(
    byDay(moments, "Europe/London").map((day) => [day.key, day.times.map((one) => one.clock)]),
  ).toEqual([
    ["2026-03-28", ["09:00"]],
    ["2026-03-29", ["09:00"]],
    ["2026-03-30", ["04:30"]],
  ]);
  expect(
    byDay(moments, "America/New_York").map((day) => [day.key, day.times.map((one) => one.clock)]),
  ).toEqual([
    ["2026-03-28", ["05:00"]],
    ["2026-03-29", ["04:00", "23:30"]],
  ]);
});

test("a clock and minutes of the day are the same", () => {
  expect([minutesOf("09:30"), clockOf(570), clockOf(minutesOf("00:05"))]).toEqual([
    570,
    "09:30",
    "00:05",
  ]);
});
