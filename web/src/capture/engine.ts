import {
  captures,
  forget,
  put,
  RATE,
  silence,
  waiting,
  type Kept,
  type Letter,
  type Part,
  type Track,
} from "./keep";
import { Looking } from "./screen";
import { NOTHING_SENT, Sender, type Sending } from "./sender";
import { open, stopAll, type Beside, type Opened, type Sources } from "./sources";
import { Store } from "./store";
import { AudioThread, type Level, type Tap } from "./tap";

export type Trouble = "silent" | "clipping" | "unplugged" | "full" | "slept" | null;

export interface State {
  /** idle; on or off the record; ending: stopped, with seconds still to be sent. */
  phase: "idle" | "on" | "off" | "ending";
  capture: Kept | null;
  /** Samples on the record. */
  samples: number;
  level: Level;
  trouble: Trouble;
  sending: Sending;
  /** Captures that this device began and never stopped. */
  unfinished: Kept[];
  /** Another tab of this browser is capturing. */
  elsewhere: boolean;
}

const QUIET: Level = { rms: 0, peak: 0, clipped: 0, at: 0 };
const SILENCE = 0.0018; // rms; about -55 dBFS, under which a room with people in it does not fall for a minute
const SILENT_FOR = 60_000;
const ASLEEP = 3_000; // the audio thread speaks ten times a second; when it said nothing for this long, the machine slept
const total = ({ before, lengths }: Pick<Kept, "before" | "lengths">) =>
  lengths.reduce((sum, one) => sum + one, before);

/** The one capture of this browser: lives beside the pages, so that turning to another page changes nothing. */
export class Engine extends Store<State> {
  private streams: MediaStream[] = [];
  private tracks: Track[] = [];
  private beside: Beside = "nothing";
  private screen: MediaStream | null = null;
  private looking: Looking | null = null;
  private thread: AudioThread | null = null;
  private tap: Tap | null = null;
  private writing: Promise<void> = Promise.resolve();
  private release: (() => void) | null = null;
  private wakeLock: WakeLockSentinel | null = null;
  private loud = 0;
  /** When the last level arrived, by the page's clock, and when it was measured, by the audio thread's. */
  private lastLevel = 0;
  private lastAt = 0;
  private slept = false;
  private clipping = 0;
  private watch = 0;
  private sender = new Sender();

  constructor() {
    super({
      phase: "idle",
      capture: null,
      samples: 0,
      level: QUIET,
      trouble: null,
      sending: NOTHING_SENT,
      unfinished: [],
      elsewhere: false,
    });
    this.sender.subscribe(() => this.sent());
  }

  /** Look for what a crash, a reload or a lost network left behind, and send on. Called when somebody has signed in. */
  async wake() {
    const held = await navigator.locks.query();
    const elsewhere =
      this.release === null && !!held.held?.some((lock) => lock.name === "aftershower-capture");
    const left = elsewhere || this.state.capture ? [] : await captures();
    for (const capture of left) {
      if (!capture.open) continue;
      // It was on the record when the page died: that stretch is over.
      const closed = { ...capture, open: false };
      await put(closed, {
        kind: "end",
        capture: capture.id,
        stretch: capture.lengths.length - 1,
        chunks: capture.chunks,
        reason: "cut off",
      });
      Object.assign(capture, closed);
    }
    this.set({ elsewhere, unfinished: left.filter((capture) => !capture.stopped) });
    this.sender.poke();
  }

  /** On the record with a capture that the server knows. Throws what the browser throws about the microphone. */
  async begin(
    capture: { id: string; meeting: string; title: string },
    sources: Sources,
    before?: Kept,
  ) {
    const got = await open(sources);
    if (!(await this.hold())) {
      stopAll(got.streams);
      this.set({ elsewhere: true });
      return;
    }
    try {
      this.thread = await AudioThread.start();
    } catch (error) {
      stopAll(got.streams);
      this.letGo();
      throw error;
    }
    this.take(got);
    const kept: Kept = before ?? {
      ...capture,
      tracks: got.tracks,
      before: 0,
      lengths: [],
      chunks: 0,
      open: false,
      stopped: false,
    };
    this.set({
      capture: { ...kept, tracks: got.tracks },
      samples: total(kept),
      unfinished: [],
      elsewhere: false,
    });
    await this.on();
  }

  private take({ streams, tracks, screen, beside }: Opened) {
    this.streams = streams;
    this.tracks = tracks;
    this.screen = screen;
    this.beside = beside;
    for (const stream of streams)
      for (const track of stream.getAudioTracks()) track.onended = () => void this.lostDevice();
  }

  private async hold(): Promise<boolean> {
    if (this.release) return true;
    return new Promise((resolve) => {
      void navigator.locks.request("aftershower-capture", { ifAvailable: true }, (lock) => {
        resolve(lock !== null);
        if (!lock) return undefined;
        return new Promise<void>((release) => {
          this.release = release;
        });
      });
    });
  }

  private async on() {
    const capture = this.state.capture!;
    const stretch = capture.lengths.length;
    const fresh: Kept = { ...capture, lengths: [...capture.lengths, 0], chunks: 0, open: true };
    this.write(fresh, {
      kind: "open",
      capture: capture.id,
      stretch,
      tracks: this.tracks,
      begun: new Date().toISOString(),
    });
    this.loud = this.lastLevel = Date.now();
    this.lastAt = 0;
    this.slept = false;
    this.tap = await this.thread!.tap(
      this.streams,
      (samples) => this.heard(samples),
      (level) => this.measured(level),
    );
    this.look(stretch);
    this.set({ phase: "on", trouble: null });
    window.clearInterval(this.watch);
    this.watch = window.setInterval(() => this.watchOver(), 1000);
    void this.stayAwake();
  }

  /** What the screen shows goes on the record with the sound; each stretch begins with a picture of its own. */
  private look(stretch: number) {
    if (!this.screen) return;
    this.looking?.end();
    this.looking = new Looking(this.screen, (data) => {
      const capture = this.state.capture!;
      this.write(capture, {
        kind: "picture",
        capture: capture.id,
        stretch,
        at: capture.lengths[stretch]!,
        data,
      });
    });
  }

  private heard(samples: Int16Array<ArrayBuffer>) {
    const capture = this.state.capture!;
    const last = capture.lengths.length - 1;
    const length = samples.length / this.tracks.length;
    const lengths = capture.lengths.with(last, capture.lengths[last]! + length);
    this.write(
      { ...capture, lengths, chunks: capture.chunks + 1 },
      {
        kind: "chunk",
        capture: capture.id,
        stretch: last,
        number: capture.chunks,
        channels: this.tracks.length,
        data: samples.buffer,
      },
    );
    this.set({ samples: total({ ...capture, lengths }) });
  }

  /** To the outbox, in order; the state in memory is ahead of the one on disk by what is being written. */
  private write(capture: Kept, ...letters: Letter[]) {
    this.set({ capture });
    this.writing = this.writing
      .then(() => this.keep(capture, letters))
      .then(() => this.sender.poke());
  }

  /** On disk, however long it takes: a device without room keeps the newest seconds in memory until some have been sent. */
  private async keep(capture: Kept, letters: Letter[]) {
    for (;;) {
      try {
        await put(capture, ...letters);
        if (this.state.trouble === "full") this.set({ trouble: null });
        return;
      } catch (error) {
        console.warn(error);
        this.set({ trouble: "full" });
        this.sender.poke();
        await new Promise((resolve) => setTimeout(resolve, 2000));
      }
    }
  }

  private measured(level: Level) {
    const now = Date.now();
    if (level.rms > SILENCE) this.loud = now;
    this.clipping =
      level.clipped > 20 ? Math.min(30, this.clipping + 3) : Math.max(0, this.clipping - 1);
    // Levels that come late and all together are a busy page; only what the audio thread missed is lost.
    const slept = this.lastAt > 0 && level.at - this.lastAt > ASLEEP;
    this.lastLevel = now;
    this.lastAt = level.at;
    if (slept && this.state.phase === "on") void this.afterSleep();
    const kept = this.state.trouble === "full" ? "full" : this.slept ? "slept" : null;
    this.set({
      level,
      trouble: now - this.loud > SILENT_FOR ? "silent" : this.clipping > 9 ? "clipping" : kept,
    });
  }

  private watchOver() {
    if (this.state.phase === "on" && Date.now() - this.lastLevel > ASLEEP)
      this.set({ trouble: "slept" });
  }

  private async afterSleep() {
    await this.off("sleep");
    await this.on();
    this.slept = true;
    this.set({ trouble: "slept" });
  }

  private async lostDevice() {
    if (this.state.phase !== "on") return;
    await this.off("unplugged");
    this.set({ trouble: "unplugged" });
  }

  private async off(reason: string) {
    const tap = this.tap;
    this.tap = null;
    if (!tap) return;
    this.looking?.end();
    this.set({ phase: "off", level: QUIET });
    await tap.end();
    const capture = this.state.capture!;
    this.write(
      { ...capture, open: false },
      {
        kind: "end",
        capture: capture.id,
        stretch: capture.lengths.length - 1,
        chunks: capture.chunks,
        reason,
      },
    );
    window.clearInterval(this.watch);
    await this.writing;
  }

  /** Off the record. strike: seconds before now that are taken back as well, for good. */
  async pause(strike = 0) {
    await this.off("pause");
    for (const stream of this.streams)
      for (const track of stream.getTracks()) track.enabled = false;
    if (strike > 0) await this.strike(strike);
  }

  private async strike(seconds: number) {
    const capture = this.state.capture!;
    const parts: Part[] = [];
    let left = Math.round(seconds * RATE);
    const lengths = [...capture.lengths];
    for (let stretch = lengths.length - 1; stretch >= 0 && left > 0; stretch--) {
      const from = Math.max(0, lengths[stretch]! - left);
      if (lengths[stretch]! > from) parts.push({ stretch, first: from, end: lengths[stretch]! });
      left -= lengths[stretch]! - from;
      lengths[stretch] = from;
    }
    if (!parts.length) return;
    await silence(capture.id, parts);
    this.write({ ...capture, lengths }, { kind: "strike", capture: capture.id, parts });
    this.set({ samples: total({ ...capture, lengths }) });
    await this.writing;
  }

  /** On the record again, with the same microphone or, after it was lost, another. */
  async resume(sources?: Sources) {
    if (
      sources ||
      !this.streams.length ||
      this.streams.some((stream) =>
        stream.getAudioTracks().some((track) => track.readyState === "ended"),
      )
    ) {
      stopAll(this.streams);
      this.take(await open(sources ?? { microphone: "", beside: this.beside }));
    }
    for (const stream of this.streams) for (const track of stream.getTracks()) track.enabled = true;
    await this.on();
  }

  async stop() {
    await this.off("stop");
    stopAll(this.streams);
    this.streams = [];
    const capture = this.state.capture!;
    this.write({ ...capture, stopped: true }, { kind: "stop", capture: capture.id });
    await this.writing;
    this.set({ phase: "ending", trouble: null });
    this.letGo();
    // What the sender last said may be from before the stop was written.
    if ((await waiting()) === 0) this.sent();
  }

  /** Stop, and forget on this device all that has not left it: the end of a rehearsal. */
  async discard() {
    const capture = this.state.capture;
    const tap = this.tap;
    this.tap = null;
    this.looking?.end();
    window.clearInterval(this.watch);
    await tap?.end();
    stopAll(this.streams);
    this.streams = [];
    await this.writing;
    if (capture) await forget(capture.id);
    this.letGo();
    this.set({ phase: "idle", capture: null, samples: 0, level: QUIET, trouble: null });
  }

  /** Stop a capture that was cut off, with what this device has of it. */
  async finish(capture: Kept) {
    await put({ ...capture, stopped: true }, { kind: "stop", capture: capture.id });
    this.set({ unfinished: this.state.unfinished.filter((one) => one.id !== capture.id) });
    this.sender.poke();
  }

  private letGo() {
    void this.thread?.stop();
    this.thread = null;
    this.release?.();
    this.release = null;
    void this.wakeLock?.release();
    this.wakeLock = null;
  }

  private sent() {
    const over = this.state.phase === "ending" && this.sender.state.waiting === 0;
    this.set({
      sending: this.sender.state,
      ...(over ? { phase: "idle" as const, capture: null, samples: 0 } : {}),
    });
  }

  private async stayAwake() {
    const hold = async () => {
      if (document.visibilityState === "visible" && this.state.phase !== "idle")
        this.wakeLock = (await navigator.wakeLock?.request("screen").catch(() => null)) ?? null;
    };
    document.onvisibilitychange = () => void hold();
    await hold();
  }
}

export const engine = new Engine();

window.addEventListener("beforeunload", (event) => {
  if (engine.state.phase === "on") event.preventDefault();
});
window.addEventListener("online", () => void engine.wake());
