import { openDB, type DBSchema, type IDBPDatabase } from "idb";

/** What this device knows of a capture of its own. `before`: samples on the record that it did not capture itself, or earlier;
 *  `lengths`: the samples a track of each stretch; `chunks`: how many the last one has. */
export interface Kept {
  id: string;
  meeting: string;
  title: string;
  tracks: Track[];
  before: number;
  lengths: number[];
  chunks: number;
  open: boolean;
  stopped: boolean;
}
export type Track = "room" | "computer";
export interface Part {
  stretch: number;
  first: number;
  end: number;
}

/** What still has to reach the server, in the order in which it has to. */
export type Letter = { seq?: number; capture: string } & (
  | { kind: "open"; stretch: number; tracks: Track[]; begun: string }
  | { kind: "chunk"; stretch: number; number: number; channels: number; data: ArrayBuffer }
  | { kind: "picture"; stretch: number; at: number; data: ArrayBuffer }
  | { kind: "end"; stretch: number; chunks: number; reason: string }
  | { kind: "strike"; parts: Part[] }
  | { kind: "stop" }
);

interface Stores extends DBSchema {
  captures: { key: string; value: Kept };
  outbox: { key: number; value: Letter; indexes: { capture: string } };
}

export const RATE = 24_000;

let opened: Promise<IDBPDatabase<Stores>> | undefined;
const base = () =>
  (opened ??= openDB<Stores>("aftershower", 1, {
    upgrade(fresh) {
      fresh.createObjectStore("captures", { keyPath: "id" });
      fresh
        .createObjectStore("outbox", { keyPath: "seq", autoIncrement: true })
        .createIndex("capture", "capture");
    },
  }));

/** Put letters into the outbox and the capture's new state beside them: both or neither. */
export async function put(capture: Kept, ...letters: Letter[]): Promise<void> {
  const all = (await base()).transaction(["captures", "outbox"], "readwrite", {
    durability: "strict",
  });
  for (const letter of letters) await all.objectStore("outbox").add(letter);
  await all.objectStore("captures").put(capture);
  await all.done;
}

export async function first(): Promise<Letter | undefined> {
  const cursor = await (await base()).transaction("outbox").store.openCursor();
  return cursor?.value;
}

export async function done(letter: Letter): Promise<void> {
  const all = (await base()).transaction(["captures", "outbox"], "readwrite");
  await all.objectStore("outbox").delete(letter.seq!);
  if (letter.kind === "stop") await all.objectStore("captures").delete(letter.capture);
  await all.done;
}

export const waiting = async () => (await base()).count("outbox");
export const captures = async () => (await base()).getAll("captures");

/** Forget a capture that the server does not know any more, with all that was still to be sent of it. */
export async function forget(capture: string): Promise<void> {
  const all = (await base()).transaction(["captures", "outbox"], "readwrite");
  for (const seq of await all.objectStore("outbox").index("capture").getAllKeys(capture))
    await all.objectStore("outbox").delete(seq);
  await all.objectStore("captures").delete(capture);
  await all.done;
}

/** Silence in place of struck samples that have not left the device yet, and no pictures of the screen of that time: they never will. */
export async function silence(capture: string, parts: Part[]): Promise<void> {
  const all = (await base()).transaction("outbox", "readwrite");
  for (
    let cursor = await all.store.index("capture").openCursor(capture);
    cursor;
    cursor = await cursor.continue()
  ) {
    const letter = cursor.value;
    if (letter.kind !== "chunk" && letter.kind !== "picture") continue;
    const part = parts.find((one) => one.stretch === letter.stretch);
    if (!part) continue;
    if (letter.kind === "picture") {
      if (letter.at >= part.first && letter.at < part.end) await cursor.delete();
      continue;
    }
    const samples = new Int16Array(letter.data);
    const from = Math.max(0, part.first - letter.number * RATE) * letter.channels;
    const to = Math.max(0, part.end - letter.number * RATE) * letter.channels;
    if (from >= samples.length || to <= 0) continue;
    samples.fill(0, from, Math.min(to, samples.length));
    await cursor.update({ ...letter, data: samples.buffer });
  }
  await all.done;
}
