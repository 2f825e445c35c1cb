import { expect, it } from "vitest";
import { askedIn, heapOf, lately } from "./matters";

it("reads an address, and leaves out what makes no sense in it", () => {
  const asked = (text: string) => askedIn(new URLSearchParams(text));
  expect(asked("")).toEqual({ view: "open" });
  expect(asked("view=stands&series=3&words= glass ")).toEqual({
    view: "stands",
    series: 3,
    words: "glass",
  });
  expect(asked("view=nonsense&series=x&person=-2&whose=mine")).toEqual({
    view: "open",
    mine: true,
  });
  expect(asked("view=changed&since=2026-03-01")).toMatchObject({ since: "2026-03-01" });
  expect(asked("view=changed&since=soon").since).toBe(lately());
  expect(asked("view=open&since=2026-03-01")).toEqual({ view: "open" });
});

it("heaps by how near a day is", () => {
  const heap = (due: string | null) => heapOf(due, "2026-03-03", "2026-03-10");
  expect(["2026-03-02", "2026-03-03", "2026-03-10", "2026-03-11", null].map(heap)).toEqual([
    "late",
    "soon",
    "soon",
    "later",
    "never",
  ]);
});
