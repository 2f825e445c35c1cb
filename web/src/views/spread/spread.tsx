import { useQueryClient } from "@tanstack/react-query";
import { Tabs } from "radix-ui";
import { useCallback, useEffect, useMemo, useRef, useState, type ReactNode } from "react";
import { useParams } from "react-router";
import { anew } from "../../api/anew";
import { failed, Problem, type Schemas } from "../../api/client";
import { keys, useEvents, useMeeting, useMinutes, usePictures, useRecord } from "../../api/hooks";
import { may } from "../../api/rights";
import { useKeys } from "../../parts/keys";
import { TWO_PAGES, useMedia } from "../../parts/media";
import { Empty, Trouble, Wait } from "../../parts/states";
import { t } from "../../texts";
import { Live } from "../live/live";
import { AskToSee } from "./asktosee";
import { useAddress, type Leaf } from "./address";
import { useArrival } from "./arrival";
import { AskPage } from "./ask/ask";
import { SpreadContext, type Shared } from "./context";
import { Head, Working } from "./head";
import { MinutesPage } from "./minutes/minutes";
import { PassageBar } from "./passage/bar";
import { usePointed } from "./pointed";
import { drafted } from "./record/draft";
import { lensed, through, type Lens } from "./record/lens";
import { gather, hitsOf, lineAt } from "./record/lines";
import { RecordPage } from "./record/record";
import { RecordTools } from "./record/tools";
import { Controls, Tick } from "./sound/controls";
import { silencesOf, usePlayer } from "./sound/player";
import { Screen, type Picture } from "./sound/screen";
import { usePlace, Video } from "./sound/video";
import { namedIn } from "./strip/named";
import { RainStrip } from "./strip/strip";
import { Threads } from "./threads";
import { useWalk } from "./walk";

const NO_PICTURES: Picture[] = [];
const NO_GAPS: Schemas["StruckSpanOut"][] = [];
const NO_CHAPTERS: Schemas["ChapterOut"][] = [];
const PAGE = "h-full overflow-y-auto overscroll-contain px-5 py-4 outline-none sm:px-7";
const nameOf = (side: Leaf | "record") => (side === "ask" ? t.ask.title : t.spread[side]);

/** A meeting: while it is captured, while it is worked on, and open as minutes and record. */
export function Spread() {
  const { id = "" } = useParams();
  useEvents(id);
  const meeting = useMeeting(id);
  // Asked for beside the meeting and not after it: most meetings that are opened are ready.
  useRecord(id);
  useMinutes(id);
  useFreshness(id, meeting.data?.work.state);
  useEffect(() => {
    document.title = meeting.data ? `${meeting.data.title} · ${t.name}` : t.name;
    return () => {
      document.title = t.name;
    };
  }, [meeting.data]);

  if (meeting.isPending) return <Wait />;
  if (failed(meeting)) {
    if (meeting.error instanceof Problem && meeting.error.status === 404)
      return <AskToSee id={id} />;
    return <Trouble error={meeting.error} again={() => void meeting.refetch()} />;
  }
  const it = meeting.data;
  if (it.work.state === "capturing") return <Live meeting={it} />;
  if (it.work.state === "ready" || it.voices.length > 0) return <Open key={id} meeting={it} />;
  return (
    <div className="mx-auto w-full max-w-[84rem] px-4 py-6 sm:px-6">
      <Head meeting={it} />
      <Working meeting={it} />
    </div>
  );
}

/** When work on the meeting ends, what was drawn from it is new. */
function useFreshness(id: string, state: string | undefined) {
  const cache = useQueryClient();
  const before = useRef(state);
  useEffect(() => {
    if (before.current === "working" && state === "ready") void anew(cache, keys.meeting(id));
    before.current = state;
  }, [state, cache, id]);
}

/** The minutes, or what is asked, on the left; the record they rest on, on the right. On a narrow screen a page at a time. */
function Open({ meeting }: { meeting: Schemas["MeetingOut"] }) {
  const { id } = meeting;
  const record = useRecord(id);
  const minutes = useMinutes(id);
  const pictures = usePictures(id, !!meeting.capture).data ?? NO_PICTURES;
  const player = usePlayer(meeting.recording?.playable ? `/api/meetings/${id}/sound` : null);
  const address = useAddress();
  const { chosen, choose, find, setFind, leaf, setLeaf, side, setSide } = address;
  const [follow, setFollow] = useState(true);
  const [screen, setScreen] = useState(true);
  const [lens, setLens] = useState<Lens>("all");
  const twoPages = useMedia(TWO_PAGES);
  // State and not a ref: the record draws its lines once it knows the page that scrolls.
  const [recordPage, setRecordPage] = useState<HTMLDivElement | null>(null);
  const leftPage = useRef<HTMLDivElement>(null);
  const pages = useRef<HTMLDivElement>(null);

  const turns = record.data?.turns;
  const struck = record.data?.struck ?? NO_GAPS;
  const chapters = minutes.data?.chapters ?? NO_CHAPTERS;
  const lines = useMemo(() => gather(turns ?? []), [turns]);
  const left = useMemo(
    () => through(lens, turns ?? [], minutes.data?.findings ?? []),
    [lens, turns, minutes.data],
  );
  const shownTurns = useMemo(() => lensed(turns ?? [], left), [turns, left]);
  const shownLines = useMemo(() => (left ? gather(shownTurns) : lines), [left, shownTurns, lines]);
  const named = useMemo(() => namedIn(turns ?? [], meeting.voices), [turns, meeting.voices]);
  const hits = useMemo(() => hitsOf(lines.all, find), [lines, find]);
  const pointed = usePointed(minutes.data, player, follow, recordPage);
  usePlace(id, player);
  useEffect(() => {
    if (player) player.silences = silencesOf(lines.all);
  }, [player, lines]);

  // A correction that was cut off, by a reload or a lost connection, is taken up again.
  const [editing, setEditing] = useState<number | null>(() => drafted(id)[0] ?? null);
  const edit = useCallback(
    (line: number | null) => {
      if (line !== null) player?.audio.pause();
      setEditing(line);
    },
    [player],
  );
  const hear = useCallback(
    (line: number, start: number) => {
      choose(line);
      setSide("record");
      setFollow(true);
      player?.seek(start);
      void player?.play();
    },
    [player, choose, setSide],
  );
  const go = useCallback(
    (seconds: number) => {
      player?.seek(seconds);
      const line = lineAt(lines.all, seconds + 0.3) ?? lines.all[0];
      if (line) choose(line.number);
    },
    [player, lines, choose],
  );
  const shared = useMemo<Shared>(
    () => ({
      meeting,
      player,
      lines,
      chosen,
      choose,
      find,
      setFind,
      editing,
      edit,
      follow,
      setFollow,
      hear,
      go,
      recordPage,
    }),
    [
      meeting,
      player,
      lines,
      chosen,
      choose,
      find,
      setFind,
      editing,
      edit,
      follow,
      hear,
      go,
      recordPage,
    ],
  );

  useArrival(meeting, turns ? lines : null, player, address);
  useWalk(
    id,
    player,
    shared,
    chapters.map((chapter) => chapter.start),
  );
  useKeys({
    m: () => {
      setLeaf("minutes");
      leftPage.current?.focus();
    },
    a: () => {
      setLeaf("ask");
      leftPage.current?.focus();
    },
    r: () => {
      setSide("record");
      recordPage?.focus();
    },
    e: () => {
      if (may(meeting, "change") && chosen !== null) {
        setSide("record");
        edit(chosen);
      }
    },
  });

  const views: Record<Leaf, ReactNode> = {
    minutes: failed(minutes) ? (
      <Trouble error={minutes.error} />
    ) : minutes.data ? (
      <MinutesPage minutes={minutes.data} pointed={pointed} />
    ) : (
      <Wait />
    ),
    ask: <AskPage pointed={pointed} />,
  };
  const recordView =
    turns && left?.size === 0 ? (
      <div role="status">
        <Empty>{t.passages.throughNone}</Empty>
        <button type="button" className="press" onClick={() => setLens("all")}>
          {t.passages.wholeAgain}
        </button>
      </div>
    ) : turns ? (
      <RecordPage turns={shownTurns} lines={shownLines} struck={struck} pointed={pointed} />
    ) : failed(record) ? (
      <Trouble error={record.error} />
    ) : (
      <Wait />
    );
  const recordSide = (heading?: ReactNode) => (
    <>
      {screen && pictures.length > 0 && (
        <Screen meeting={id} pictures={pictures} player={player} go={go} />
      )}
      {screen && player && meeting.recording?.shown && !meeting.capture && (
        <Video meeting={id} player={player} struck={struck} away={() => setScreen(false)} />
      )}
      <div ref={setRecordPage} tabIndex={-1} className={PAGE}>
        {heading}
        {!!turns?.length && (
          <RecordTools
            chapters={chapters}
            hits={hits}
            lens={lens}
            setLens={setLens}
            left={left?.size ?? null}
          />
        )}
        {recordView}
      </div>
      <PassageBar />
    </>
  );
  return (
    <SpreadContext value={shared}>
      <div className="flex h-[calc(100dvh-3.4rem)] flex-col">
        <div className="mx-auto w-full max-w-[84rem] px-4 pt-4 pb-2 sm:px-6">
          <Head meeting={meeting} />
          <RainStrip
            named={named}
            pictures={pictures}
            minutes={minutes.data}
            hits={hits}
            struck={struck}
          />
          {meeting.work.state === "working" && (
            <p role="status" className="mt-1 text-sm text-faded">
              {t.spread.rereading}
            </p>
          )}
          {meeting.work.state === "failed" && (
            <p role="alert" className="mt-1 text-clay">
              {meeting.work.message}
            </p>
          )}
        </div>
        {twoPages ? (
          <div
            ref={pages}
            className="mx-auto grid min-h-0 w-full max-w-[84rem] grow grid-cols-[minmax(0,5fr)_3rem_minmax(0,6fr)] px-6 pb-3"
          >
            <section aria-label={nameOf(leaf)} className="sheet min-h-0 shadow-sm">
              <div ref={leftPage} tabIndex={-1} className={PAGE}>
                <div className="mb-4 flex items-baseline gap-5">
                  {(["minutes", "ask"] as const).map((one) => (
                    <h2 key={one} className="text-lg italic">
                      <button
                        type="button"
                        aria-pressed={leaf === one}
                        onClick={() => setLeaf(one)}
                        className={`border-b-2 ${leaf === one ? "border-slate" : "border-transparent text-faded hover:text-ink"}`}
                      >
                        {nameOf(one)}
                      </button>
                    </h2>
                  ))}
                </div>
                {views[leaf]}
              </div>
            </section>
            <Threads minutesIds={pointed.at.minutes} lines={pointed.at.lines} pages={pages} />
            <section aria-label={t.spread.record} className="sheet flex min-h-0 flex-col shadow-sm">
              {recordSide(<h2 className="mb-3 text-lg italic">{t.spread.record}</h2>)}
            </section>
          </div>
        ) : (
          <Tabs.Root
            value={side}
            onValueChange={(to) => (to === "record" ? setSide(to) : setLeaf(to as Leaf))}
            className="flex min-h-0 grow flex-col px-2"
          >
            <Tabs.List aria-label={t.spread.turnPage} className="flex">
              {(["minutes", "ask", "record"] as const).map((one) => (
                <Tabs.Trigger
                  key={one}
                  value={one}
                  className="grow border-b-2 border-transparent py-2 font-serif italic data-[state=active]:border-slate"
                >
                  {nameOf(one)}
                </Tabs.Trigger>
              ))}
            </Tabs.List>
            {(["minutes", "ask"] as const).map((one) => (
              <Tabs.Content key={one} value={one} className="sheet min-h-0 grow">
                <div ref={side === one ? leftPage : undefined} tabIndex={-1} className={PAGE}>
                  {views[one]}
                </div>
              </Tabs.Content>
            ))}
            <Tabs.Content
              value="record"
              className="sheet flex min-h-0 grow flex-col data-[state=inactive]:hidden"
            >
              {recordSide()}
            </Tabs.Content>
          </Tabs.Root>
        )}
        {player ? (
          <Controls player={player}>
            {(pictures.length > 0 || meeting.recording?.shown) && (
              <Tick
                label={pictures.length > 0 ? t.spread.screen : t.passages.video}
                on={screen}
                set={setScreen}
              />
            )}
          </Controls>
        ) : (
          <p className="border-t border-rule bg-paper px-6 py-2 text-sm text-faded">
            {meeting.recording?.withheld && meeting.recording.form !== "transcript"
              ? t.passages.withheld
              : t.spread.noSound}{" "}
            {meeting.recording?.timed === false && t.spread.untimed}
          </p>
        )}
      </div>
    </SpreadContext>
  );
}
