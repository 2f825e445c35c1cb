// @vitest-environment happy-dom
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { Player, silencesOf } from "./player";

let player: Player;
beforeEach(() => {
  vi.useFakeTimers();
  localStorage.clear();
  player = new Player("/sound");
});
afterEach(() => {
  player.close();
  vi.useRealTimers();
});
const playing = (at: number) => {
  Object.defineProperty(player.audio, "paused", { configurable: true, value: false });
  player.seek(at);
};

it("passes over what nobody says, only while asked to", () => {
  player.silences = silencesOf([
    { start: 0, end: 4 },
    { start: 9, end: 12 },
    { start: 12.5, end: 20 },
  ]);
  expect(player.silences).toEqual([{ start: 4.25, end: 8.75 }]);
  playing(5);
  vi.advanceTimersByTime(150);
  expect(player.time).toBe(5);
  player.skipping = true;
  vi.advanceTimersByTime(150);
  expect(player.time).toBe(8.75);
});

it("keeps the speed for the next recording, and only one that there is", () => {
  player.speed = 1.5;
  expect(new Player("/other").audio.playbackRate).toBe(1.5);
  localStorage.setItem("speed", "17");
  expect(new Player("/other").audio.playbackRate).toBe(1);
});

it("tells those who look while it plays, and nobody who has stopped looking", () => {
  const look = vi.fn();
  const stop = player.subscribe(look);
  playing(0);
  vi.advanceTimersByTime(350);
  expect(look.mock.calls.length).toBeGreaterThanOrEqual(3);
  look.mockClear();
  stop();
  vi.advanceTimersByTime(350);
  expect(look).not.toHaveBeenCalled();
});

it("goes nowhere before the beginning", () => {
  player.seek(-3);
  expect(player.time).toBe(0);
});
