import { useEffect, useMemo, useSyncExternalStore } from "react";

/** Plays a recording; what looks at its time subscribes, so that a tick redraws only those. */
export class Player {
  readonly audio = new Audio();
  private listeners = new Set<() => void>();
  private frame = 0;

  constructor(source: string) {
    this.audio.preload = "metadata";
    this.audio.src = source;
    const tell = () => this.listeners.forEach((listener) => listener());
    for (const event of ["play", "pause", "seeked", "ratechange", "loadedmetadata", "ended", "error"]) this.audio.addEventListener(event, tell);
    const tick = () => {
      if (!this.audio.paused) tell();
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

/** Something of a player's state, kept up to date. */
export function usePlaying<T extends number | boolean>(player: Player | null, pick: (player: Player) => T, otherwise: T): T {
  return useSyncExternalStore(player?.subscribe ?? nothing, () => (player ? pick(player) : otherwise));
}
