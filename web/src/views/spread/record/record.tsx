import { useVirtualizer } from "@tanstack/react-virtual";
import { useQuery } from "@tanstack/react-query";
import { memo, useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { Schemas } from "../../../api/client";
import { keys, useComments, useFiles, useNotes } from "../../../api/hooks";
import { pointing } from "../../../parts/pointing";
import { placesOf } from "../../../parts/spacing";
import { Empty } from "../../../parts/states";
import { useWalked } from "../../../parts/walked";
import { clock } from "../../../parts/time";
import { t } from "../../../texts";
import { CommentLeaf, Margin } from "../passage/comment";
import { LineEditor } from "./edit";
import { useSpread } from "../context";
import type { Pointed } from "../pointed";
import { lineAt, markWords, type Lines, type Turn } from "./lines";
import { askWords, wordAt } from "../passage/passage";
import { usePlaying, type Player } from "../sound/player";
import { TurnMenu } from "./turn";
import { filesAt, InMessage } from "../../clerk/laid";
import { VoiceName } from "../voice";
import { may } from "../../../api/rights";

interface Props {
  /** Those that are shown, with their lines. */
  turns: Turn[];
  lines: Lines;
  struck: Schemas["StruckSpanOut"][];
  pointed: Pointed;
}

const NO_FILES: Schemas["LaidOut"][] = [];

/** The record: turns of named voices, only those in sight drawn; it follows the sound. A line pressed is chosen, pressed twice it is heard. */
export function RecordPage({ turns, lines, struck, pointed }: Props) {
  const {
    meeting,
    player,
    recordPage: page,
    chosen,
    choose,
    find,
    follow,
    setFollow,
    editing,
    edit,
    hear,
    lines: whole,
  } = useSpread();
  const { show } = pointed;
  const hearLine = useCallback(
    (number: number) => {
      const line = whole.all.find((one) => one.number === number);
      if (line) hear(number, line.start);
    },
    [whole, hear],
  );
  const now = usePlaying(player, (one) => lineAt(lines.all, one.time)?.number ?? 0, 0);
  const word = useWord(meeting.id, player, now);
  // Not in the margin itself, which leaves the page when its turn is scrolled out of sight.
  const [answering, setAnswering] = useState<Schemas["CommentOut"] | null>(null);
  const beside = useBeside(meeting.id, turns, struck);
  const written = turns.some((turn) => turn.written);
  const files = useFiles(meeting.id, written).data ?? NO_FILES;
  const playing = usePlaying(player, (one) => !one.audio.paused, false);
  const voices = new Map(meeting.voices.map((voice) => [voice.id, voice]));
  const rows = useVirtualizer({
    count: turns.length,
    getScrollElement: () => page,
    overscan: 8,
    getItemKey: (index) => turns[index]!.number,
    estimateSize: (index) =>
      34 +
      27 * Math.ceil(turns[index]!.lines.reduce((sum, line) => sum + line.text.length + 1, 0) / 62),
  });
  const landed = useRef<number | null>(null);
  useEffect(() => {
    if (!page || chosen === null || landed.current === chosen) return;
    const index = lines.turnOf.get(chosen);
    if (index === undefined) return;
    landed.current = chosen;
    if (inSight(page, chosen)) return;
    rows.scrollToIndex(index, { align: "center" });
  }, [chosen, lines, rows, page]);
  useEffect(() => {
    if (show === null || inSight(page, show)) return;
    const index = lines.turnOf.get(show);
    if (index !== undefined) rows.scrollToIndex(index, { align: "center" });
  }, [show, lines, rows, page]);
  useEffect(() => {
    const index = lines.turnOf.get(now);
    // A page that stays while what is said is in sight lets one read on, and press a line twice.
    if (follow && playing && index !== undefined && !inSight(page, now))
      rows.scrollToIndex(index, { align: "center" });
  }, [now, follow, playing, lines, rows, page]);
  const drawn = rows.getVirtualItems();
  const walked = useWalked(
    drawn.flatMap((item) => turns[item.index]!.lines.map((line) => String(line.number))),
  );
  if (!turns.length) return <Empty>{t.spread.nothing}</Empty>;
  return (
    <div
      {...walked.list}
      onWheel={() => setFollow(false)}
      onTouchMove={() => setFollow(false)}
      className="relative"
      style={{ height: rows.getTotalSize() }}
    >
      {answering && (
        <CommentLeaf meeting={meeting} answer={answering} close={() => setAnswering(null)} />
      )}
      {drawn.map((item) => {
        const turn = turns[item.index]!;
        const tab = Math.max(...turn.lines.map((line) => walked.inner(String(line.number))));
        const voice = voices.get(turn.voice);
        return (
          <div
            key={item.key}
            ref={rows.measureElement}
            data-index={item.index}
            className="group absolute inset-x-0 top-0 pb-3"
            style={{ transform: `translateY(${item.start}px)` }}
          >
            <p className="flex items-baseline gap-2 text-sm">
              {voice && (
                <VoiceName meeting={meeting} voice={voice} className="font-semibold" tab={tab} />
              )}
              <span className="text-xs text-faded">{clock(turn.start)}</span>
              {turn.written && <span className="text-xs text-faded italic">{t.clerk.inChat}</span>}
              {voice && may(meeting, "change") && (
                <TurnMenu
                  meeting={meeting}
                  turn={turn}
                  tab={tab}
                  voice={voice}
                  last={item.index === turns.length - 1}
                  chosen={chosen}
                  edit={edit}
                />
              )}
              {turn.lines.some((line) => line.voice_unsure) && (
                <span className="text-xs text-clay">{t.voices.unsure}</span>
              )}
              {turn.lines.some((line) => line.overlap) && (
                <span className="text-xs text-faded italic">{t.voices.overlap}</span>
              )}
            </p>
            <div lang={turn.language || undefined} className="font-serif leading-relaxed">
              {turn.lines.map((line) =>
                line.number === editing ? (
                  <LineEditor
                    key={line.number}
                    meeting={meeting}
                    line={line}
                    close={() => edit(null)}
                  />
                ) : (
                  <LineText
                    key={line.number}
                    number={line.number}
                    tab={walked.inner(String(line.number))}
                    text={line.text}
                    unsure={line.unsure}
                    now={now === line.number && (playing || chosen === line.number)}
                    word={now === line.number && playing ? word : -1}
                    lit={pointed.litLines.has(line.number)}
                    cited={pointed.cited.has(line.number)}
                    chosen={chosen === line.number}
                    find={find}
                    point={pointed.line}
                    choose={choose}
                    hear={hearLine}
                  />
                ),
              )}
            </div>
            {turn.written && (
              <InMessage
                meeting={meeting.id}
                text={turn.lines.map((line) => line.text).join(" ")}
                files={filesAt(files, turn.start)}
              />
            )}
            {beside.has(turn.number) && (
              <Margin meeting={meeting} answer={setAnswering} {...beside.get(turn.number)!} />
            )}
            {turn.english && (
              <p lang="en" className="font-serif leading-relaxed text-faded italic">
                {turn.english}
              </p>
            )}
          </div>
        );
      })}
    </div>
  );
}

/** The text with the words marked of which the recogniser was unsure. */
function withUnsure(text: string, unsure: number[][]) {
  if (!unsure.length) return text;
  const pieces = [];
  let at = 0;
  for (const [first, end] of unsure) {
    pieces.push(
      text.slice(at, first),
      <span
        key={first}
        title={t.review.reasons.words}
        className="border-b border-dashed border-clay"
      >
        {text.slice(first, end)}
      </span>,
    );
    at = end!;
  }
  return [...pieces, text.slice(at)];
}

/** The text with the word marked that is being said. */
function withWord(text: string, word: number) {
  const place = placesOf(text)[word];
  return place
    ? [
        text.slice(0, place[0]),
        <span key="now" className="rounded-[2px] bg-brass/45">
          {text.slice(...place)}
        </span>,
        text.slice(place[1]),
      ]
    : text;
}

const PIECE = 120; // seconds of words asked for at a time

/** The index of the word that is being said in the line that is; -1 while nothing plays. */
function useWord(meeting: string, player: Player | null, now: number): number {
  const from = usePlaying(
    player,
    (one) => (one.audio.paused ? -1 : Math.floor(one.time / PIECE) * PIECE),
    -1,
  );
  const said = useQuery({
    queryKey: keys.said(meeting, from),
    enabled: from >= 0,
    staleTime: 60_000,
    queryFn: () => askWords(meeting, from - 15, from + PIECE + 15),
  });
  const words = useMemo(
    () => new Map(said.data?.map((line) => [line.line, line.words])),
    [said.data],
  );
  return usePlaying(
    player,
    (one) => {
      const own = words.get(now);
      return own && !one.audio.paused ? wordAt(own, one.time) : -1;
    },
    -1,
  );
}

type Beside = Pick<Parameters<typeof Margin>[0], "marks" | "comments" | "reactions" | "struck">;

/** What stands under each turn: number of the turn → marks, comments, reactions that begin in it or before the next, and what was struck there. */
function useBeside(
  meeting: string,
  turns: Turn[],
  struck: Schemas["StruckSpanOut"][],
): Map<number, Beside> {
  const marks = useNotes(meeting).data?.marks;
  const said = useComments(meeting).data;
  return useMemo(() => {
    const found = new Map<number, Beside>();
    const starts = turns.map((turn) => turn.start);
    const at = (start: number) => {
      const index = Math.max(
        0,
        starts.findLastIndex((one) => one <= start + 0.05),
      );
      const number = turns[index]?.number ?? 0;
      if (!found.has(number))
        found.set(number, { marks: [], comments: [], reactions: [], struck: [] });
      return found.get(number)!;
    };
    if (!turns.length) return found;
    for (const one of marks ?? []) at(one.start).marks.push(one);
    for (const one of said?.comments ?? []) at(one.start).comments.push(one);
    for (const one of said?.reactions ?? []) at(one.start).reactions.push(one);
    for (const one of struck) at(one.start).struck.push(one);
    return found;
  }, [turns, marks, said, struck]);
}

/** Is a line drawn, and within what the page shows? */
function inSight(page: HTMLElement | null, line: number): boolean {
  const [box, found] = [
    page?.getBoundingClientRect(),
    page?.querySelector(`[data-line="${line}"]`)?.getBoundingClientRect(),
  ];
  return !!box && !!found && found.top > box.top + 8 && found.bottom < box.bottom - 8;
}

interface LineProps {
  number: number;
  tab: number;
  text: string;
  unsure: number[][];
  now: boolean;
  word: number;
  lit: boolean;
  cited: boolean;
  chosen: boolean;
  find: string;
  point: (line: number | null) => void;
  choose: (line: number) => void;
  hear: (line: number) => void;
}

const LineText = memo(function LineText({
  number,
  tab,
  text,
  unsure,
  now,
  word,
  lit,
  cited,
  chosen,
  find,
  point,
  choose,
  hear,
}: LineProps) {
  return (
    <>
      <span
        role="button"
        tabIndex={tab}
        data-item={number}
        data-line={number}
        aria-current={now || chosen ? "true" : undefined}
        className={`cursor-pointer rounded-[2px] decoration-edge underline-offset-[5px] hover:bg-wash ${lit ? "bg-glow" : now ? "bg-glow/60" : ""} ${chosen ? "shadow-[inset_0_-2px_var(--brass)]" : ""} ${cited ? "underline decoration-dotted decoration-1" : ""}`}
        onClick={() => {
          if (!getSelection()?.toString()) choose(number);
        }}
        onDoubleClick={() => hear(number)}
        onKeyDown={(event) => {
          if (event.key === "Enter") hear(number);
        }}
        {...pointing(
          () => point(number),
          () => point(null),
        )}
        onFocus={(event) => {
          point(number);
          // Whoever comes by keyboard acts on the line they are at.
          if (event.currentTarget.matches(":focus-visible")) choose(number);
        }}
      >
        {find
          ? markWords(text, find).map((piece, index) =>
              piece.hit ? (
                <mark key={index} className="bg-glow text-ink">
                  {piece.text}
                </mark>
              ) : (
                piece.text
              ),
            )
          : word >= 0
            ? withWord(text, word)
            : withUnsure(text, unsure)}
      </span>{" "}
    </>
  );
});
