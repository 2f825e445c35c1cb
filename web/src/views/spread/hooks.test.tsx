// @vitest-environment happy-dom
import { act, cleanup, fireEvent, render, renderHook } from "@testing-library/react";
import type { ReactNode } from "react";
import { MemoryRouter, useLocation } from "react-router";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "../../api/client";
import { useAddress } from "./address";
import { useArrival } from "./arrival";
import { usePointed } from "./pointed";
import { gather, type Turn } from "./record/lines";
import type { Player } from "./sound/player";
import { useWalk } from "./walk";

const line = (number: number, start: number, end: number) => ({ number, start, end, text: "…" });
const lines = gather([
  { number: 1, start: 0, end: 9, lines: [line(1, 0, 4), line(2, 4, 9)] },
  { number: 2, start: 10, end: 30, lines: [line(3, 10, 20), line(4, 21, 30)] },
] as unknown as Turn[]);
const meeting = { id: "m", duration: 300 } as Schemas["MeetingOut"];

/** A player that plays nothing. */
function fake(time = 0) {
  return {
    time,
    speed: 1,
    audio: { paused: true, playbackRate: 1 },
    seek: vi.fn(),
    play: vi.fn(() => Promise.resolve()),
    toggle: vi.fn(),
  };
}
const as = (player: ReturnType<typeof fake>) => player as unknown as Player;

let address = "";
function Shown() {
  address = useLocation().search;
  return null;
}
const at =
  (search: string) =>
  ({ children }: { children: ReactNode }) => (
    <MemoryRouter initialEntries={[`/meetings/m${search}`]}>
      <Shown />
      {children}
    </MemoryRouter>
  );

beforeEach(() => localStorage.clear());
afterEach(cleanup);

describe("the address of an open meeting", () => {
  it("says line, words and leaf, and what is asked of one goes into it", () => {
    const { result } = renderHook(() => useAddress(), { wrapper: at("?line=3&find=lock&hear=1") });
    expect(result.current).toMatchObject({ chosen: 3, find: "lock", hear: true, leaf: "minutes" });
    expect(result.current.side).toBe("record"); // whoever comes to a line sees the record first
    act(() => result.current.choose(4));
    expect(address).toBe("?line=4&find=lock"); // chosen, and not heard again
    act(() => result.current.setLeaf("ask"));
    act(() => result.current.setFind(""));
    expect(address).toBe("?line=4&leaf=ask");
    expect(result.current).toMatchObject({ side: "ask", find: "", chosen: 4 });
  });
});

describe("arriving at a meeting", () => {
  const arrive = (search: string, player: ReturnType<typeof fake> | null) =>
    renderHook(() => useArrival(meeting, lines, player && as(player), useAddress()), {
      wrapper: at(search),
    });

  it("begins at the line that the address names, and is heard only where that is asked for", () => {
    const player = fake();
    arrive("?line=3", player);
    expect(player.seek).toHaveBeenCalledWith(10);
    expect(player.play).not.toHaveBeenCalled();
    arrive("?line=3&hear=1", player);
    expect(player.play).toHaveBeenCalledOnce();
    expect(address).toBe("?line=3"); // loading the page again plays nothing
  });

  it("begins at a moment that somebody points to, with or without sound", () => {
    const player = fake();
    arrive("?at=12", player);
    expect(player.seek).toHaveBeenCalledWith(12);
    expect(address).toBe("?line=3");
    arrive("?at=22", null);
    expect(address).toBe("?line=4");
  });

  it("stays where one is when the record comes anew", () => {
    const player = fake();
    const { rerender } = renderHook(
      ({ all }) => useArrival(meeting, all, as(player), useAddress()),
      { wrapper: at("?line=2"), initialProps: { all: lines } },
    );
    rerender({ all: { ...lines } });
    expect(player.seek).toHaveBeenCalledOnce();
  });
});

describe("walking a meeting by keys", () => {
  const walk = (player: ReturnType<typeof fake> | null, chosen: number | null = null) => {
    const go = vi.fn();
    renderHook(() => useWalk("m", player && as(player), { lines, chosen, go }, [0, 10, 100]));
    return { go, press: (key: string) => fireEvent.keyDown(document.body, { key }) };
  };

  it("goes by line and chapter, and stays at the ends", () => {
    const player = fake(11);
    const { go, press } = walk(player);
    for (const key of [".", ",", ">", "<"]) press(key);
    expect(go.mock.calls.flat()).toEqual([21, 4, 100, 0]);
    go.mockClear();
    player.time = 25;
    press(".");
    expect(go.mock.calls.flat()).toEqual([21]);
    player.time = 200;
    go.mockClear();
    press(">");
    expect(go).not.toHaveBeenCalled();
  });

  it("plays and pauses, slower and faster within what there is", () => {
    const player = fake();
    const { press } = walk(player);
    press(" ");
    expect(player.toggle).toHaveBeenCalledOnce();
    press("+");
    expect(player.speed).toBe(1.25);
    player.audio.playbackRate = 0.5;
    press("-");
    expect(player.speed).toBe(0.5);
  });
});

describe("pointing", () => {
  const minutes = {
    lines: [
      { id: 7, lines: [2, 3], removed: false },
      { id: 8, lines: [3], removed: false },
      { id: 9, lines: [1], removed: true },
    ],
  } as Schemas["MinutesOut"];
  const point = () => renderHook(() => usePointed(minutes, null, true, null)).result;

  it("lights what belongs together on both pages, and nothing of what was taken out", () => {
    const result = point();
    expect([...result.current.cited].sort()).toEqual([2, 3]);
    act(() => result.current.line(3));
    expect([...result.current.litRows]).toEqual([7, 8]);
    act(() => result.current.line(1));
    expect(result.current.at).toEqual({ minutes: [], lines: [] });
    act(() => result.current.row({ id: 7, lines: [2, 3], section: "actions" }));
    expect([[...result.current.litRows], [...result.current.litLines]]).toEqual([[7], [2, 3]]);
    // What only may be so is no row of the minutes yet.
    act(() => result.current.row({ id: 40, lines: [4] }));
    expect([[...result.current.litRows], [...result.current.litLines]]).toEqual([[], [4]]);
  });

  it("is the same while a pointer moves within the same line", () => {
    const result = point();
    act(() => result.current.line(3));
    const before = result.current.at;
    act(() => result.current.line(3));
    expect(result.current.at).toBe(before);
  });

  it("brings what a line of the minutes rests on into sight, after a moment and not while the sound is followed", () => {
    vi.useFakeTimers();
    const player = fake();
    const { result } = renderHook(() => usePointed(minutes, as(player), true, null));
    act(() => result.current.row({ id: 7, lines: [2, 3], section: "actions" }));
    expect(result.current.show).toBeNull();
    act(() => void vi.advanceTimersByTime(300));
    expect(result.current.show).toBe(2);
    player.audio.paused = false;
    act(() => result.current.row({ id: 8, lines: [3], section: "actions" }));
    act(() => void vi.advanceTimersByTime(300));
    expect(result.current.show).toBe(2);
    vi.useRealTimers();
  });
});

it("needs a spread around it", async () => {
  const { useSpread } = await import("./context");
  const Lost = () => <>{useSpread().meeting.id}</>;
  vi.spyOn(console, "error").mockImplementation(() => undefined);
  expect(() => render(<Lost />)).toThrow("only within a spread");
});
