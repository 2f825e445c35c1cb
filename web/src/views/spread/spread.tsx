import { useQueryClient } from "@tanstack/react-query";
import { Tabs } from "radix-ui";
import { useCallback, useEffect, useMemo, useRef, useState, type ReactNode } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { client, Problem, the, type Schemas } from "../../api/client";
import {
  keys,
  useChange,
  useEvents,
  useMeeting,
  useMinutes,
  usePictures,
  useRecord,
} from "../../api/hooks";
import { engine } from "../../capture/engine";
import { RATE } from "../../capture/keep";
import { useKeys } from "../../parts/keys";
import { WorkProgress } from "../../parts/progress";
import { Empty, Trouble, Wait } from "../../parts/states";
import { clock, showLength, showLongDay, showTime } from "../../parts/time";
import { TWO_PAGES, useMedia } from "../../parts/media";
import { t } from "../../texts";
import { gather, lineAt } from "./lines";
import { refusal } from "../capture/capture";
import { Live } from "../live/live";
import { AskPage } from "./ask";
import { MinutesPage } from "./minutes";
import { PassageBar } from "./bar";
import { lensed, through, type Lens } from "./lens";
import { askWords, wordAt } from "./passage";
import { silencesOf, SPEEDS, usePlayer, usePlaying, type Player } from "./player";
import { keptPlace, usePlace, Video } from "./video";
import { RecordPage } from "./record";
import { Screen } from "./screen";
import { RainStrip } from "./strip";
import { Threads } from "./threads";
import { hitsOf, RecordTools } from "./tools";
import { drafted } from "./draft";
import { may } from "../../api/rights";

const MANY = 6; // voices from which the strip would take the page from the record
const NONE: ReadonlySet<number> = new Set();
interface Pointed {
  minutes: readonly number[];
  lines: readonly number[];
}
const NOWHERE: Pointed = { minutes: [], lines: [] };
/** The new one, or the old where both are of the same: a pointer says where it is with every step. */
const moved = (to: Pointed) => (from: Pointed) =>
  JSON.stringify(from) === JSON.stringify(to) ? from : to;
const NO_GAPS: Schemas["StruckSpanOut"][] = [];

function Head({ meeting }: { meeting: Schemas["MeetingOut"] }) {
  return (
    <header className="flex flex-wrap items-baseline gap-x-5 gap-y-1">
      <h1 className="min-w-0 text-xl sm:text-2xl">{meeting.title}</h1>
      <p className="text-sm text-faded">
        {showLongDay(meeting.started_at)}, {showTime(meeting.started_at)}
        {meeting.duration > 0 && ` · ${showLength(meeting.duration)}`}
        {meeting.series && ` · ${meeting.series}`}
      </p>
      <span className="grow" />
      <p className="flex flex-wrap items-center gap-x-4 text-sm">
        {meeting.voices.length > 0 && meeting.recording?.playable && (
          <Link to={`/meetings/${meeting.id}/review`} className="cite">
            {t.review.open}
          </Link>
        )}
        {meeting.capture && may(meeting, "change") && <GoOn meeting={meeting} />}
        <Link to={`/meetings/${meeting.id}/settings`} className="cite">
          {t.spread.seenBy({ who: meeting.visibility })}
        </Link>
      </p>
    </header>
  );
}

/** Capture what follows, as part of the same meeting. */
function GoOn({ meeting }: { meeting: Schemas["MeetingOut"] }) {
  const again = useChange(async () => {
    const begun = await the(
      client.POST("/api/meetings/{meeting_id}/capture", {
        params: { path: { meeting_id: meeting.id } },
      }),
    );
    const known = await the(
      client.GET("/api/captures/{capture_id}", { params: { path: { capture_id: begun.id } } }),
    );
    await engine.begin(
      { ...begun, title: meeting.title },
      { microphone: localStorage.getItem("microphone") ?? "", beside: "nothing" },
      {
        id: begun.id,
        meeting: meeting.id,
        title: meeting.title,
        tracks: ["room"],
        before: Math.round(known.seconds * RATE),
        lengths: known.stretches.map(() => 0),
        chunks: 0,
        open: false,
        stopped: false,
      },
    );
  }, keys.meeting(meeting.id));
  return (
    <>
      {again.error && (
        <span role="alert" className="text-clay">
          {again.error instanceof Problem ? again.error.message : refusal(again.error.name)}
        </span>
      )}
      <button
        type="button"
        className="cite"
        disabled={again.isPending}
        onClick={() => again.mutate(undefined)}
      >
        {t.capture.later}
      </button>
    </>
  );
}

/** A meeting while it is being worked on, or when that failed. */
function Working({ meeting }: { meeting: Schemas["MeetingOut"] }) {
  const again = useChange(
    () =>
      the(
        client.POST("/api/meetings/{meeting_id}/progress/again", {
          params: { path: { meeting_id: meeting.id } },
        }),
      ),
    keys.meeting(meeting.id),
  );
  return (
    <div className="sheet mt-6 max-w-2xl p-6">
      {meeting.work.state === "failed" ? (
        <div role="alert">
          <h2 className="text-lg text-clay">{t.work.failed}</h2>
          <p className="mt-2">{meeting.work.message}</p>
          {may(meeting, "change") && (
            <button
              type="button"
              className="press press-main mt-4"
              disabled={again.isPending}
              onClick={() => again.mutate(undefined)}
            >
              {t.work.again}
            </button>
          )}
        </div>
      ) : (
        <>
          <WorkProgress work={meeting.work} />
          <p className="mt-4 text-faded">{t.work.leave}</p>
        </>
      )}
      {meeting.recording && (
        <p className="mt-4 text-sm break-all text-faded">{meeting.recording.name}</p>
      )}
    </div>
  );
}

function Controls({
  player,
  meeting,
  follow,
  setFollow,
  children,
}: {
  player: Player;
  meeting: Schemas["MeetingOut"];
  follow: boolean;
  setFollow: (follow: boolean) => void;
  children?: ReactNode;
}) {
  const playing = usePlaying(player, (one) => !one.audio.paused, false);
  const seconds = usePlaying(player, (one) => Math.floor(one.time), 0);
  const rate = usePlaying(player, (one) => one.audio.playbackRate, 1);
  const [skip, setSkip] = useState(() => localStorage.getItem("skip") === "1");
  useEffect(() => {
    player.skipping = skip;
    localStorage.setItem("skip", skip ? "1" : "0");
  }, [player, skip]);
  return (
    <div className="flex items-center gap-4 border-t border-rule bg-paper px-4 py-2 sm:px-6">
      <button
        type="button"
        className="press press-main min-w-20 justify-center"
        onClick={() => player.toggle()}
      >
        {playing ? t.spread.pause : t.spread.play}
      </button>
      <span className="text-sm">
        {clock(seconds)} <span className="text-faded">/ {clock(meeting.duration)}</span>
      </span>
      <label className="flex items-center gap-2 text-sm text-faded max-sm:hidden">
        {t.spread.speed}
        <select
          className="field w-auto py-0.5 text-ink"
          value={rate}
          onChange={(event) => {
            player.speed = Number(event.target.value);
          }}
        >
          {SPEEDS.map((speed) => (
            <option key={speed} value={speed}>
              {speed} ×
            </option>
          ))}
        </select>
      </label>
      <Tick label={t.spread.follow} on={follow} set={setFollow} />
      <span className="max-sm:hidden">
        <Tick label={t.passages.skip} on={skip} set={setSkip} />
      </span>
      {children}
    </div>
  );
}

function Tick({ label, on, set }: { label: string; on: boolean; set: (on: boolean) => void }) {
  return (
    <label className="flex items-center gap-2 text-sm">
      <input
        type="checkbox"
        checked={on}
        onChange={(event) => set(event.target.checked)}
        className="size-4 accent-slate"
      />
      {label}
    </label>
  );
}

export function Spread() {
  const { id = "" } = useParams();
  const [params, setParams] = useSearchParams();
  useEvents(id);
  const meeting = useMeeting(id);
  const shown =
    !!meeting.data && (meeting.data.work.state === "ready" || meeting.data.voices.length > 0);
  // Asked for beside the meeting and not after it: most meetings that are opened are ready.
  const record = useRecord(id);
  const minutes = useMinutes(id);
  const pictures = usePictures(id, !!meeting.data?.capture).data ?? [];
  const [screen, setScreen] = useState(true);
  const [over, setOver] = useState(false);
  const player = usePlayer(meeting.data?.recording?.playable ? `/api/meetings/${id}/sound` : null);
  const chosen = params.has("line") ? Number(params.get("line")) : null;
  const find = params.get("find") ?? "";
  const [pointed, setPointed] = useState(NOWHERE);
  const [follow, setFollow] = useState(true);
  const [side, setSide] = useState(
    chosen === null ? (params.get("leaf") === "ask" ? "ask" : "minutes") : "record",
  );
  // Of the page opposite the record: the minutes, or what is asked.
  const leaf = params.get("leaf") === "ask" ? "ask" : "minutes";
  const setLeaf = useCallback(
    (to: string) => {
      setSide(to);
      setParams(
        (old) => {
          if (to === "ask") old.set("leaf", to);
          else old.delete("leaf");
          return old;
        },
        { replace: true },
      );
    },
    [setParams],
  );
  const twoPages = useMedia(TWO_PAGES);
  // State and not a ref: the record draws its lines once it knows the page that scrolls.
  const [recordPage, setRecordPage] = useState<HTMLDivElement | null>(null);
  const minutesPage = useRef<HTMLDivElement>(null);
  const pages = useRef<HTMLDivElement>(null);
  const cache = useQueryClient();

  // When work on the meeting ends, what was drawn from it is new.
  const state = meeting.data?.work.state;
  const before = useRef(state);
  useEffect(() => {
    if (before.current === "working" && state === "ready")
      void cache.invalidateQueries({ queryKey: keys.meeting(id) });
    before.current = state;
  }, [state, cache, id]);
  useEffect(() => {
    document.title = meeting.data ? `${meeting.data.title} · ${t.name}` : t.name;
    return () => {
      document.title = t.name;
    };
  }, [meeting.data]);

  const turns = record.data?.turns;
  const struck = record.data?.struck ?? NO_GAPS;
  const lines = useMemo(() => gather(turns ?? []), [turns]);
  const [lens, setLens] = useState<Lens>("all");
  const left = useMemo(
    () => through(lens, turns ?? [], minutes.data?.findings ?? []),
    [lens, turns, minutes.data],
  );
  const shownTurns = useMemo(() => lensed(turns ?? [], left), [turns, left]);
  const shownLines = useMemo(() => (left ? gather(shownTurns) : lines), [left, shownTurns, lines]);
  usePlace(id, player);
  useEffect(() => {
    if (player) player.silences = silencesOf(lines.all);
  }, [player, lines]);
  const citing = useMemo(() => {
    const map = new Map<number, number[]>();
    for (const row of minutes.data?.lines ?? [])
      if (!row.removed)
        for (const line of row.lines) map.set(line, [...(map.get(line) ?? []), row.id]);
    return map;
  }, [minutes.data]);
  const cited = useMemo(() => new Set(citing.keys()), [citing]);
  const litLines = useMemo(() => new Set(pointed.lines), [pointed]);
  const litMinutes = useMemo(
    () => (pointed.minutes.length ? new Set(pointed.minutes) : NONE),
    [pointed],
  );

  const hits = useMemo(() => hitsOf(lines.all, find), [lines, find]);
  const setFind = useCallback(
    (text: string) =>
      setParams(
        (old) => {
          if (text) old.set("find", text);
          else old.delete("find");
          return old;
        },
        { replace: true },
      ),
    [setParams],
  );
  // A correction that was cut off, by a reload or a lost connection, is taken up again.
  const [editing, setEditing] = useState<number | null>(() => drafted(id)[0] ?? null);
  const edit = useCallback(
    (line: number | null) => {
      if (line !== null) player?.audio.pause();
      setEditing(line);
    },
    [player],
  );
  const setLine = useCallback(
    (line: number) =>
      setParams(
        (old) => {
          old.set("line", String(line));
          old.delete("hear");
          return old;
        },
        { replace: true },
      ),
    [setParams],
  );
  const hear = useCallback(
    (line: number, start: number) => {
      setLine(line);
      setSide("record");
      setFollow(true);
      player?.seek(start);
      void player?.play();
    },
    [player, setLine],
  );
  const hearLine = useCallback(
    (number: number) => {
      const line = lines.all.find((one) => one.number === number);
      if (line) hear(number, line.start);
    },
    [lines, hear],
  );
  const go = useCallback(
    (seconds: number) => {
      player?.seek(seconds);
      const line = lineAt(lines.all, seconds + 0.3) ?? lines.all[0];
      if (line) setLine(line.number);
    },
    [player, lines, setLine],
  );
  const showLine = useCallback(
    (line: { number: number; start: number }) => {
      player?.seek(line.start);
      setLine(line.number);
    },
    [player, setLine],
  );
  const pointLine = useCallback(
    (line: number | null) =>
      setPointed(
        moved(
          line === null || !citing.has(line)
            ? NOWHERE
            : { minutes: citing.get(line)!, lines: [line] },
        ),
      ),
    [citing],
  );
  const pointMinutes = useCallback(
    (row: { id: number; lines: number[]; section?: string } | null) =>
      setPointed(moved(row ? { minutes: row.section ? [row.id] : [], lines: row.lines } : NOWHERE)),
    [],
  );

  // Pointing at a line of the minutes brings what it rests on into sight opposite, unless the page is following the sound.
  const [shownLine, setShownLine] = useState<number | null>(null);
  useEffect(() => {
    if (!pointed.minutes.length && pointed.lines.length < 1) return;
    const fromMinutes = pointed.lines.length > 0 && !recordPage?.matches(":hover");
    const moving = player && !player.audio.paused && follow;
    if (!fromMinutes || moving) return;
    const later = setTimeout(() => setShownLine(pointed.lines[0]!), 250);
    return () => clearTimeout(later);
  }, [pointed, player, follow, recordPage]);

  // An address that names a line begins there; one that asks for it is heard at once.
  const begun = useRef(false);
  const known = !!meeting.data;
  const duration = meeting.data?.duration ?? 0;
  useEffect(() => {
    if (begun.current || !turns || !known) return;
    begun.current = true;
    const line = lines.all.find((one) => one.number === chosen);
    const asked = params.has("at") ? Number(params.get("at")) : null;
    if (line && player) {
      player.seek(line.start);
      if (params.has("hear")) void player.play();
    } else if (asked !== null || player) {
      // A moment that somebody points to, or where one left off.
      const place = asked ?? keptPlace(id, duration);
      const there = place !== null && lineAt(lines.all, place + 0.3);
      if (place !== null) player?.seek(place);
      if (there)
        setParams(
          (old) => {
            old.delete("at");
            old.set("line", String(there.number));
            return old;
          },
          { replace: true },
        );
      if (asked !== null) setSide("record");
    }
    if (params.has("hear"))
      setParams(
        (old) => {
          old.delete("hear");
          return old;
        },
        { replace: true },
      );
  }, [turns, known, lines, chosen, player, params, setParams, id, duration]);

  const step = (by: number) => {
    const now = lineAt(lines.all, player?.time ?? 0)?.number ?? chosen ?? 0;
    const next =
      lines.all[
        Math.min(
          lines.all.length - 1,
          Math.max(0, lines.all.findIndex((line) => line.number === now) + by),
        )
      ];
    if (next) go(next.start);
  };
  const stepChapter = (by: number) => {
    const starts = minutes.data?.chapters.map((chapter) => chapter.start) ?? [];
    const time = player?.time ?? 0;
    const target =
      by > 0
        ? starts.find((start) => start > time + 0.5)
        : starts.findLast((start) => start < time - 2);
    if (target !== undefined) go(target);
  };
  const stepWord = async (by: number) => {
    if (!player) return;
    const said = (await askWords(id, Math.max(0, player.time - 20), player.time + 20)).flatMap(
      (line) => line.words,
    );
    const at = wordAt(said, player.time) + by;
    const word = said[Math.min(said.length - 1, Math.max(0, at))];
    if (word) go(word[1]);
  };
  const speed = (by: number) => {
    if (player)
      player.speed =
        SPEEDS[
          Math.min(SPEEDS.length - 1, Math.max(0, SPEEDS.indexOf(player.audio.playbackRate) + by))
        ] ?? 1;
  };
  useKeys({
    ArrowLeft: () => void stepWord(-1),
    ArrowRight: () => void stepWord(1),
    "-": () => speed(-1),
    "+": () => speed(1),
    " ": () => player?.toggle(),
    ",": () => step(-1),
    ".": () => step(1),
    "<": () => stepChapter(-1),
    ">": () => stepChapter(1),
    m: () => {
      setLeaf("minutes");
      minutesPage.current?.focus();
    },
    a: () => {
      setLeaf("ask");
      minutesPage.current?.focus();
    },
    r: () => {
      setSide("record");
      recordPage?.focus();
    },
    e: () => {
      if (may(meeting.data, "change") && chosen !== null) {
        setSide("record");
        edit(chosen);
      }
    },
  });

  if (meeting.isPending) return <Wait />;
  if (meeting.error) {
    if (meeting.error instanceof Problem && meeting.error.status === 404)
      return (
        <div className="p-8">
          <p>{t.spread.noMeeting}</p>
          <Link className="press mt-4" to="/library">
            {t.spread.toLibrary}
          </Link>
        </div>
      );
    return <Trouble error={meeting.error} again={() => void meeting.refetch()} />;
  }
  const it = meeting.data;
  if (it.work.state === "capturing") return <Live meeting={it} />;
  if (!shown)
    return (
      <div className="mx-auto w-full max-w-[84rem] px-4 py-6 sm:px-6">
        <Head meeting={it} />
        <Working meeting={it} />
      </div>
    );

  const minutesView = minutes.data ? (
    <MinutesPage
      meeting={it}
      minutes={minutes.data}
      lit={litMinutes}
      point={pointMinutes}
      hear={hear}
      go={go}
      now={() => player?.time ?? 0}
    />
  ) : minutes.error ? (
    <Trouble error={minutes.error} />
  ) : (
    <Wait />
  );
  const recordView =
    turns && left?.size === 0 ? (
      <div role="status">
        <Empty>{t.passages.throughNone}</Empty>
        <button type="button" className="press" onClick={() => setLens("all")}>
          {t.passages.wholeAgain}
        </button>
      </div>
    ) : turns ? (
      <RecordPage
        meeting={it}
        turns={shownTurns}
        lines={shownLines}
        struck={struck}
        player={player}
        page={recordPage}
        lit={litLines}
        cited={cited}
        chosen={chosen}
        show={shownLine}
        find={find}
        follow={follow}
        setFollow={setFollow}
        point={pointLine}
        choose={setLine}
        hear={hearLine}
        editing={editing}
        edit={edit}
      />
    ) : record.error ? (
      <Trouble error={record.error} />
    ) : (
      <Wait />
    );
  const askView = <AskPage meeting={it} point={pointMinutes} hear={hear} />;
  const tools = !!turns?.length && (
    <RecordTools
      meeting={it}
      chapters={minutes.data?.chapters ?? []}
      hits={hits}
      find={find}
      setFind={setFind}
      chosen={chosen}
      show={showLine}
      lens={lens}
      setLens={setLens}
      left={left?.size ?? null}
    />
  );
  const bar = (
    <PassageBar
      meeting={it}
      page={recordPage}
      all={lines.all}
      chosen={chosen}
      player={player}
      edit={edit}
    />
  );
  const screenView = screen && pictures.length > 0 && (
    <Screen meeting={id} pictures={pictures} player={player} go={go} />
  );
  const videoView = screen && player && it.recording?.shown && !it.capture && (
    <Video meeting={id} player={player} struck={struck} away={() => setScreen(false)} />
  );
  const page = "h-full overflow-y-auto overscroll-contain px-5 py-4 outline-none sm:px-7";
  return (
    <div className="flex h-[calc(100dvh-3.4rem)] flex-col">
      <div className="mx-auto w-full max-w-[84rem] px-4 pt-4 pb-2 sm:px-6">
        <Head meeting={it} />
        <div
          className="mt-3"
          onPointerEnter={() => setOver(true)}
          onPointerLeave={() => setOver(false)}
          onFocus={() => setOver(true)}
          onBlur={() => setOver(false)}
        >
          <RainStrip
            folded={twoPages && !over && it.strip.length > MANY}
            meeting={it}
            minutes={minutes.data}
            hits={hits}
            struck={struck}
            player={player}
            go={go}
          />
        </div>
        {it.work.state === "working" && (
          <p role="status" className="mt-1 text-sm text-faded">
            {t.spread.rereading}
          </p>
        )}
        {it.work.state === "failed" && (
          <p role="alert" className="mt-1 text-clay">
            {it.work.message}
          </p>
        )}
      </div>
      {twoPages ? (
        <div
          ref={pages}
          className="mx-auto grid min-h-0 w-full max-w-[84rem] grow grid-cols-[minmax(0,5fr)_3rem_minmax(0,6fr)] px-6 pb-3"
        >
          <section
            aria-label={leaf === "ask" ? t.ask.title : t.spread.minutes}
            className="sheet min-h-0 shadow-sm"
          >
            <div ref={minutesPage} tabIndex={-1} className={page}>
              <div className="mb-4 flex items-baseline gap-5">
                {(["minutes", "ask"] as const).map((one) => (
                  <h2 key={one} className="text-lg italic">
                    <button
                      type="button"
                      aria-pressed={leaf === one}
                      onClick={() => setLeaf(one)}
                      className={`border-b-2 ${leaf === one ? "border-slate" : "border-transparent text-faded hover:text-ink"}`}
                    >
                      {one === "ask" ? t.ask.title : t.spread.minutes}
                    </button>
                  </h2>
                ))}
              </div>
              {leaf === "ask" ? askView : minutesView}
            </div>
          </section>
          <Threads minutesIds={pointed.minutes} lines={pointed.lines} pages={pages} />
          <section aria-label={t.spread.record} className="sheet flex min-h-0 flex-col shadow-sm">
            {screenView}
            {videoView}
            <div ref={setRecordPage} tabIndex={-1} className={page}>
              <h2 className="mb-3 text-lg italic">{t.spread.record}</h2>
              {tools}
              {recordView}
            </div>
            {bar}
          </section>
        </div>
      ) : (
        <Tabs.Root
          value={side}
          onValueChange={(to) => (to === "record" ? setSide(to) : setLeaf(to))}
          className="flex min-h-0 grow flex-col px-2"
        >
          <Tabs.List aria-label={t.spread.turnPage} className="flex">
            {(["minutes", "ask", "record"] as const).map((one) => (
              <Tabs.Trigger
                key={one}
                value={one}
                className="grow border-b-2 border-transparent py-2 font-serif italic data-[state=active]:border-slate"
              >
                {one === "ask" ? t.ask.title : t.spread[one]}
              </Tabs.Trigger>
            ))}
          </Tabs.List>
          <Tabs.Content value="minutes" className="sheet min-h-0 grow">
            <div ref={minutesPage} tabIndex={-1} className={page}>
              {minutesView}
            </div>
          </Tabs.Content>
          <Tabs.Content value="ask" className="sheet min-h-0 grow">
            <div tabIndex={-1} className={page}>
              {askView}
            </div>
          </Tabs.Content>
          <Tabs.Content
            value="record"
            className="sheet flex min-h-0 grow flex-col data-[state=inactive]:hidden"
          >
            {screenView}
            {videoView}
            <div ref={setRecordPage} tabIndex={-1} className={page}>
              {tools}
              {recordView}
            </div>
            {bar}
          </Tabs.Content>
        </Tabs.Root>
      )}
      {player ? (
        <Controls player={player} meeting={it} follow={follow} setFollow={setFollow}>
          {(pictures.length > 0 || it.recording?.shown) && (
            <Tick
              label={pictures.length > 0 ? t.spread.screen : t.passages.video}
              on={screen}
              set={setScreen}
            />
          )}
        </Controls>
      ) : (
        <p className="border-t border-rule bg-paper px-6 py-2 text-sm text-faded">
          {it.recording?.withheld && it.recording.form !== "transcript"
            ? t.passages.withheld
            : t.spread.noSound}{" "}
          {it.recording?.timed === false && t.spread.untimed}
        </p>
      )}
    </div>
  );
}
