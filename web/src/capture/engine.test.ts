import "fake-indexeddb/auto";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Level } from "./tap";

/** The tap that the engine has opened last: what comes from it is said by the test. */
const tap = {
  heard: (() => undefined) as (samples: Int16Array<ArrayBuffer>) => void,
  level: (() => undefined) as (level: Level) => void,
  rest: new Int16Array(0),
};
vi.mock("./tap", () => ({
  AudioThread: {
    start: () =>
      Promise.resolve({
        tap: (_: unknown, heard: typeof tap.heard, level: typeof tap.level) => {
          Object.assign(tap, { heard, level, rest: new Int16Array(0) });
          // As the audio thread does, it hands over what is not yet a whole second when it ends.
          return Promise.resolve({
            end: () => {
              if (tap.rest.length) heard(tap.rest);
              return Promise.resolve();
            },
          });
        },
        stop: () => Promise.resolve(),
      }),
  },
}));
const held = vi.hoisted(() => new Set<string>());
const microphone = {
  onended: null as null | (() => void),
  enabled: true,
  readyState: "live",
  stop() {},
};

vi.stubGlobal("window", Object.assign(new EventTarget(), { setInterval, clearInterval }));
vi.stubGlobal("document", { cookie: "", visibilityState: "visible" });
vi.stubGlobal("navigator", {
  mediaDevices: {
    getUserMedia: () =>
      Promise.resolve({ getAudioTracks: () => [microphone], getTracks: () => [microphone] }),
  },
  locks: {
    query: () => Promise.resolve({ held: [...held].map((name) => ({ name })) }),
    request: (name: string, ...given: unknown[]) => {
      const then = given.at(-1) as (lock: object | null) => Promise<void> | undefined;
      if (name === "aftershower-send") return new Promise(() => undefined); // the outbox is looked at instead
      if (held.has(name)) return Promise.resolve(then(null));
      held.add(name);
      return Promise.resolve(then({})).finally(() => held.delete(name));
    },
  },
});

const { Engine } = await import("./engine");
const { captures, done, first, forget, put, RATE } = await import("./keep");

const second = (value: number) => new Int16Array(RATE).fill(value);
const loud: Level = { rms: 0.1, peak: 0.4, clipped: 0, at: 100 };
const sources = { microphone: "", beside: "nothing" as const };
const capture = { id: "c", meeting: "m", title: "Glazing" };

/** What is in the outbox, oldest first, and out of it. */
async function letters() {
  const all = [];
  for (let letter = await first(); letter; letter = await first()) {
    all.push(letter);
    await done(letter);
  }
  return all;
}
const kinds = (all: Awaited<ReturnType<typeof letters>>) =>
  all.map((one) =>
    one.kind === "chunk"
      ? `${one.stretch}.${one.number}`
      : one.kind === "end"
        ? `end ${one.stretch} ${one.chunks} ${one.reason}`
        : one.kind,
  );

let engine: InstanceType<typeof Engine>;
beforeEach(async () => {
  for (const one of await captures()) await forget(one.id);
  held.clear();
  microphone.readyState = "live";
  engine = new Engine();
  await engine.begin(capture, sources);
});
afterEach(async () => {
  if (engine.state.phase !== "idle") await engine.discard();
  vi.restoreAllMocks();
});

describe("a capture", () => {
  it("puts each second into the outbox, and the shorter one before a pause", async () => {
    tap.heard(second(1));
    tap.heard(second(2));
    tap.rest = new Int16Array(RATE / 2).fill(3);
    await engine.pause();
    expect(engine.state).toMatchObject({ phase: "off", samples: 2.5 * RATE });
    expect(microphone.enabled).toBe(false);
    await engine.resume();
    tap.heard(second(4));
    expect(engine.state.capture?.lengths).toEqual([2.5 * RATE, RATE]);
    await engine.stop();
    expect(engine.state.phase).toBe("ending"); // until all of it has been sent
    expect(kinds(await letters())).toEqual([
      "open",
      "0.0",
      "0.1",
      "0.2",
      "end 0 3 pause",
      "open",
      "1.0",
      "end 1 1 stop",
      "stop",
    ]);
  });

  it("strikes back over a pause, and what has not left the device is silent", async () => {
    for (const value of [1, 2]) tap.heard(second(value));
    await engine.pause();
    await engine.resume();
    tap.heard(second(3));
    await engine.pause(2.5);
    expect(engine.state.samples).toBe(RATE / 2);
    const all = await letters();
    const sound = all.flatMap((one) => (one.kind === "chunk" ? [...new Int16Array(one.data)] : []));
    expect(sound.slice(0, RATE / 2).every((one) => one === 1)).toBe(true);
    expect(sound.slice(RATE / 2).every((one) => one === 0)).toBe(true);
    expect(all.at(-1)).toMatchObject({
      kind: "strike",
      parts: [
        { stretch: 1, first: 0, end: RATE },
        { stretch: 0, first: RATE / 2, end: 2 * RATE },
      ],
    });
  });

  it("keeps the newest seconds in memory while the device is full, and writes them when there is room", async () => {
    const add = vi.spyOn(IDBObjectStore.prototype, "add").mockImplementation(() => {
      throw new DOMException("no room", "QuotaExceededError");
    });
    vi.spyOn(console, "warn").mockImplementation(() => undefined);
    tap.heard(second(1));
    tap.heard(second(2));
    await vi.waitUntil(() => engine.state.trouble === "full");
    add.mockRestore();
    await vi.waitUntil(() => engine.state.trouble === null, { timeout: 5000 });
    await engine.pause();
    expect(kinds(await letters())).toEqual(["open", "0.0", "0.1", "end 0 2 pause"]);
  });

  it("begins a new stretch after the machine slept", async () => {
    tap.heard(second(1));
    tap.level(loud);
    tap.level({ ...loud, at: loud.at + 20_000 });
    await vi.waitUntil(() => engine.state.trouble === "slept");
    tap.heard(second(2));
    await engine.pause();
    expect(kinds(await letters())).toEqual([
      "open",
      "0.0",
      "end 0 1 sleep",
      "open",
      "1.0",
      "end 1 1 pause",
    ]);
  });

  it("takes levels that come late, all together, for a busy page and not for a sleep", async () => {
    tap.level(loud);
    const now = Date.now();
    vi.spyOn(Date, "now").mockReturnValue(now + 20_000);
    for (let tenth = 1; tenth < 200; tenth++) tap.level({ ...loud, at: loud.at + tenth * 100 });
    tap.heard(second(1));
    await engine.pause();
    expect(engine.state.trouble).toBe(null);
    expect(kinds(await letters())).toEqual(["open", "0.0", "end 0 1 pause"]);
  });

  it("says that the microphone is gone, and goes on with another", async () => {
    tap.heard(second(1));
    microphone.readyState = "ended";
    microphone.onended!();
    await vi.waitUntil(() => engine.state.trouble === "unplugged");
    expect(engine.state.phase).toBe("off");
    microphone.readyState = "live";
    await engine.resume(sources);
    expect(engine.state).toMatchObject({ phase: "on", trouble: null });
    expect(kinds(await letters())).toEqual(["open", "0.0", "end 0 1 unplugged", "open"]);
  });

  it("says what is wrong with the sound: nothing for a minute, or too much", () => {
    const start = Date.now();
    const now = vi.spyOn(Date, "now");
    const quiet = { ...loud, rms: 0.0001, peak: 0 };
    for (let tick = 0; tick <= 61_000; tick += 1000) {
      now.mockReturnValue(start + tick);
      tap.level(quiet);
    }
    expect(engine.state.trouble).toBe("silent");
    for (let tick = 0; tick < 4; tick++) tap.level({ ...loud, peak: 1, clipped: 100 });
    expect(engine.state.trouble).toBe("clipping");
    for (let tick = 0; tick < 30; tick++) tap.level(loud);
    expect(engine.state.trouble).toBeNull();
  });
});

describe("after a page died", () => {
  const left = {
    ...capture,
    id: "d",
    tracks: ["room" as const],
    before: 0,
    lengths: [RATE],
    chunks: 1,
    open: true,
    stopped: false,
  };

  it("ends the stretch that was open, once, and finishes with what there is", async () => {
    await engine.discard();
    await put(left);
    const fresh = new Engine();
    await fresh.wake();
    await fresh.wake();
    expect(fresh.state.unfinished.map((one) => one.id)).toEqual(["d"]);
    await fresh.finish(fresh.state.unfinished[0]!);
    expect(fresh.state.unfinished).toEqual([]);
    expect(kinds(await letters())).toEqual(["end 0 1 cut off", "stop"]);
  });

  it("leaves a capture alone that goes on in another tab, and begins none beside it", async () => {
    const beside = new Engine();
    await beside.wake();
    expect(beside.state).toMatchObject({ elsewhere: true, unfinished: [] });
    await beside.begin({ ...capture, id: "e" }, sources);
    expect(beside.state).toMatchObject({ phase: "idle", capture: null, elsewhere: true });
    expect((await captures()).map((one) => one.id)).toEqual(["c"]);
  });

  it("forgets a rehearsal wholly", async () => {
    tap.heard(second(1));
    await engine.discard();
    expect(engine.state).toMatchObject({ phase: "idle", capture: null, samples: 0 });
    expect([await captures(), await letters()]).toEqual([[], []]);
  });
});
