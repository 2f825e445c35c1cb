import "fake-indexeddb/auto";
import { beforeEach, expect, it } from "vitest";
import {
  captures,
  done,
  first,
  forget,
  put,
  RATE,
  silence,
  waiting,
  type Kept,
  type Letter,
} from "./keep";

const kept = (id: string): Kept => ({
  id,
  meeting: `m-${id}`,
  title: id,
  tracks: ["room"],
  before: 0,
  lengths: [2 * RATE],
  chunks: 2,
  open: true,
  stopped: false,
});
const chunk = (capture: string, number: number, channels = 1): Letter => ({
  kind: "chunk",
  capture,
  stretch: 0,
  number,
  channels,
  data: new Int16Array(RATE * channels).fill(number + 1).buffer,
});
const samples = (letter: Letter | undefined) =>
  new Int16Array((letter as { data: ArrayBuffer }).data);

beforeEach(async () => {
  for (const one of await captures()) await forget(one.id);
});

it("gives letters back in the order in which they were put, until they are done", async () => {
  await put(
    kept("a"),
    { kind: "open", capture: "a", stretch: 0, tracks: ["room"], begun: "now" },
    chunk("a", 0),
  );
  await put(kept("a"), chunk("a", 1));
  const seen: string[] = [];
  for (let letter = await first(); letter; letter = await first()) {
    seen.push(letter.kind);
    await done(letter);
  }
  expect(seen).toEqual(["open", "chunk", "chunk"]);
  expect(await waiting()).toBe(0);
  expect((await captures()).map((one) => one.id)).toEqual(["a"]);
});

it("forgets a capture once its stop has been sent, and not before", async () => {
  await put({ ...kept("a"), stopped: true }, { kind: "stop", capture: "a" });
  expect(await captures()).toHaveLength(1);
  await done((await first())!);
  expect(await captures()).toHaveLength(0);
});

it("silences what was struck and has not left the device, to the sample", async () => {
  await put(kept("a"), chunk("a", 0, 2), chunk("a", 1, 2));
  await silence("a", [{ stretch: 0, first: RATE - 10, end: RATE + 5 }]);
  const early = await first();
  expect([...samples(early).slice(-22)]).toEqual([1, 1, ...Array<number>(20).fill(0)]);
  await done(early!);
  expect([...samples(await first()).slice(0, 12)]).toEqual([...Array<number>(10).fill(0), 2, 2]);
});

it("forgets one capture and leaves the other", async () => {
  await put(kept("a"), chunk("a", 0));
  await put(kept("b"), chunk("b", 0));
  await forget("a");
  expect((await first())?.capture).toBe("b");
  expect(await waiting()).toBe(1);
});
