import { useKeys } from "../../parts/keys";
import { askWords, wordAt } from "./passage/passage";
import { lineAt } from "./record/lines";
import { SPEEDS, type Player } from "./sound/player";
import type { Shared } from "./context";

const within = <One>(all: readonly One[], index: number) =>
  all[Math.min(all.length - 1, Math.max(0, index))];

/** The keys that walk a meeting: by word, line and chapter, slower and faster, play and pause. */
export function useWalk(
  meeting: string,
  player: Player | null,
  { lines, chosen, go }: Pick<Shared, "lines" | "chosen" | "go">,
  chapters: readonly number[],
) {
  const byLine = (by: number) => {
    const now = lineAt(lines.all, player?.time ?? 0)?.number ?? chosen ?? 0;
    const next = within(lines.all, lines.all.findIndex((line) => line.number === now) + by);
    if (next) go(next.start);
  };
  const byChapter = (by: number) => {
    const time = player?.time ?? 0;
    const target =
      by > 0
        ? chapters.find((start) => start > time + 0.5)
        : chapters.findLast((start) => start < time - 2);
    if (target !== undefined) go(target);
  };
  const byWord = async (by: number) => {
    if (!player) return;
    const around = await askWords(meeting, Math.max(0, player.time - 20), player.time + 20);
    const said = around.flatMap((line) => line.words);
    const word = within(said, wordAt(said, player.time) + by);
    if (word) go(word[1]);
  };
  const speed = (by: number) => {
    if (player) player.speed = within(SPEEDS, SPEEDS.indexOf(player.audio.playbackRate) + by) ?? 1;
  };
  useKeys({
    ArrowLeft: () => void byWord(-1),
    ArrowRight: () => void byWord(1),
    "-": () => speed(-1),
    "+": () => speed(1),
    " ": () => player?.toggle(),
    ",": () => byLine(-1),
    ".": () => byLine(1),
    "<": () => byChapter(-1),
    ">": () => byChapter(1),
  });
}
