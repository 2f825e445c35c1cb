import { useEffect, useMemo, useSyncExternalStore } from "react";

const SPEED = "speed";
export const SPEEDS = [0.5, 0.75, 1, 1.25, 1.5, 2, 2.5, 3];

function keptSpeed(): number {
  const kept = Number(localStorage.getItem(SPEED));
  return SPEEDS.includes(kept) ? kept : 1;
}

/** Plays a recording; what looks at its time subscribes, so that a tick redraws only those. */
export class Player {
  readonly audio = new Audio();
  private listeners = new Set<() => void>();
  private frame = 0;
  /** Stretches in which nobody speaks; passed over while `skipping`. */
  silences: { start: number; end: number }[] = [];
  skipping = false;

  constructor(source: string) {
    this.audio.preload = "metadata";
    this.audio.src = source;
    // At any speed people keep their voices.
    this.audio.preservesPitch = true;
    // A new source takes the default rate.
    this.audio.defaultPlaybackRate = this.audio.playbackRate = keptSpeed();
    const tell = () => this.listeners.forEach((listener) => listener());
    for (const event of [
      "play",
      "pause",
      "seeked",
      "ratechange",
      "loadedmetadata",
      "ended",
      "error",
    ])
      this.audio.addEventListener(event, tell);
    const tick = () => {
      if (!this.audio.paused) {
        const silence =
          this.skipping &&
          this.silences.find((one) => one.start <= this.time && this.time < one.end - 0.1);
        if (silence) this.seek(silence.end);
        tell();
      }
      this.frame = window.setTimeout(tick, 100);
    };
    tick();
  }

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  get time() {
    return this.audio.currentTime;
  }

  /** To a second of the recording. The place is kept also while nothing is loaded yet. */
  seek(seconds: number) {
    this.audio.currentTime = Math.max(0, seconds);
  }

  async play() {
    // A browser may refuse to play before the page was touched; the button is there then.
    await this.audio.play().catch(() => undefined);
  }

  toggle() {
    if (this.audio.paused) void this.play();
    else this.audio.pause();
  }

  /** How fast: kept for the next meeting. */
  set speed(rate: number) {
    this.audio.defaultPlaybackRate = this.audio.playbackRate = rate;
    localStorage.setItem(SPEED, String(rate));
  }

  close() {
    clearTimeout(this.frame);
    this.audio.pause();
    this.audio.removeAttribute("src");
    this.audio.load();
  }
}

export function usePlayer(source: string | null): Player | null {
  const player = useMemo(() => (source ? new Player(source) : null), [source]);
  useEffect(() => () => player?.close(), [player]);
  return player;
}

const nothing = () => () => undefined;

const LONG = 1.2; // seconds without a word that are a silence to be passed over
const LEAD = 0.25; // seconds of it that are heard before somebody speaks

/** Where nobody speaks between lines, for a player to pass over. */
export function silencesOf(
  lines: { start: number; end: number }[],
): { start: number; end: number }[] {
  const found = [];
  let until = 0;
  for (const line of lines) {
    if (line.start - until > LONG)
      found.push({ start: until + (until ? LEAD : 0), end: line.start - LEAD });
    until = Math.max(until, line.end);
  }
  return found;
}

/** Something of a player's state, kept up to date. */
export function usePlaying<T extends number | boolean>(
  player: Player | null,
  pick: (player: Player) => T,
  otherwise: T,
): T {
  return useSyncExternalStore(player?.subscribe ?? nothing, () =>
    player ? pick(player) : otherwise,
  );
}
