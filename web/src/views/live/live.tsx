import { Tabs } from "radix-ui";
import { useEffect, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { client, failed, the, type Schemas } from "../../api/client";
import { keys, useChange, useFiles, useInCall, useLive } from "../../api/hooks";
import { engine } from "../../capture/engine";
import { RATE, type Kept } from "../../capture/keep";
import { useCapture } from "../../capture/use";
import { useKeys } from "../../parts/keys";
import { Leaf } from "../../parts/leaf";
import { LevelGauge } from "../../parts/level";
import { useSay } from "../../parts/sayings";
import { Sure } from "../../parts/sure";
import { Trouble, Wait, Wrong } from "../../parts/states";
import { clock } from "../../parts/time";
import { TWO_PAGES, useMedia } from "../../parts/media";
import { t } from "../../texts";
import { refusal } from "../capture/capture";
import { ClerkBar } from "../clerk/bar";
import { filesAt, InMessage } from "../clerk/laid";
import { NoticePanel } from "../capture/tell";
import { Meanwhile } from "./meanwhile";
import { may } from "../../api/rights";

const STRIKE = 120; // seconds

/** A meeting while it is captured: what is heard on the right, what people write meanwhile on the left. */
export function Live({ meeting }: { meeting: Schemas["MeetingOut"] }) {
  const live = useLive(meeting.id);
  const clerk = useInCall(meeting.id).data;
  const mine = useCapture();
  const here = mine.capture?.meeting === meeting.id && mine.phase !== "idle";
  const [side, setSide] = useState("live");
  const twoPages = useMedia(TWO_PAGES);
  if (live.isPending) return <Wait />;
  if (failed(live)) return <Trouble error={live.error} again={() => void live.refetch()} />;
  const state = here
    ? mine.phase === "on"
      ? "on"
      : mine.phase === "ending"
        ? "stopping"
        : "off"
    : live.data.state;
  const seconds = here ? mine.samples / RATE : live.data.seconds;
  const page = "h-full overflow-y-auto overscroll-contain px-5 py-4 outline-none sm:px-7";
  const record = <LiveRecord meeting={meeting.id} live={live.data} />;
  const meanwhile = <Meanwhile meeting={meeting} seconds={seconds} />;
  return (
    <div className="flex h-[calc(100dvh-3.4rem)] flex-col">
      <div className="mx-auto w-full max-w-[84rem] px-4 pt-4 pb-3 sm:px-6">
        <h1 className="text-xl sm:text-2xl">{meeting.title}</h1>
        <Bar
          meeting={meeting}
          state={state}
          seconds={seconds}
          here={here}
          behind={live.data.behind}
          clerk={clerk?.visit ?? null}
        />
        {clerk?.visit && <ClerkBar meeting={meeting} visit={clerk.visit} people={clerk.people} />}
      </div>
      {twoPages ? (
        <div className="mx-auto grid min-h-0 w-full max-w-[84rem] grow grid-cols-[minmax(0,5fr)_minmax(0,6fr)] gap-8 px-6 pb-4">
          <section aria-label={t.live.meanwhile} className="sheet min-h-0 shadow-sm">
            <div tabIndex={-1} className={page}>
              {meanwhile}
            </div>
          </section>
          <section aria-label={t.live.title} className="sheet min-h-0 shadow-sm">
            <div tabIndex={-1} className="flex h-full flex-col">
              {record}
            </div>
          </section>
        </div>
      ) : (
        <Tabs.Root
          value={side}
          onValueChange={setSide}
          className="flex min-h-0 grow flex-col px-2 pb-2"
        >
          <Tabs.List aria-label={t.spread.turnPage} className="flex">
            {(
              [
                ["live", t.live.title],
                ["meanwhile", t.live.meanwhile],
              ] as const
            ).map(([one, label]) => (
              <Tabs.Trigger
                key={one}
                value={one}
                className="grow border-b-2 border-transparent py-2 font-serif italic data-[state=active]:border-slate"
              >
                {label}
              </Tabs.Trigger>
            ))}
          </Tabs.List>
          <Tabs.Content value="live" className="sheet min-h-0 grow">
            <div className="flex h-full flex-col">{record}</div>
          </Tabs.Content>
          <Tabs.Content value="meanwhile" className="sheet min-h-0 grow">
            <div className={page}>{meanwhile}</div>
          </Tabs.Content>
        </Tabs.Root>
      )}
    </div>
  );
}

/** On or off the record, for how long, how loud; and what can be done about it. */
function Bar({
  meeting,
  state,
  seconds,
  here,
  behind,
  clerk,
}: {
  meeting: Schemas["MeetingOut"];
  state: string;
  seconds: number;
  here: boolean;
  behind: number;
  clerk: Schemas["VisitOut"] | null;
}) {
  const { level, trouble, sending, unfinished } = useCapture();
  const [asking, setAsking] = useState<"strike" | "stop" | "notice" | null>(null);
  const unasked = () => setAsking(null);
  const [refused, setRefused] = useState("");
  const say = useSay();
  const without = useChange(
    () =>
      the(
        client.POST("/api/captures/{capture_id}/stop", {
          params: { path: { capture_id: meeting.capture! } },
          body: { without_the_rest: true },
        }),
      ),
    keys.meeting(meeting.id),
  );
  // Begun on this device, and cut off by a reload or a crash of the page.
  const cut = here ? undefined : unfinished.find((one) => one.meeting === meeting.id);
  const goOn = (kept: Kept) => {
    setRefused("");
    const sources = {
      microphone: localStorage.getItem("microphone") ?? "",
      beside: "nothing",
    } as const;
    void engine.begin(kept, sources, kept).catch((error: Error) => setRefused(error.name));
  };
  // Begun, and left before anything was captured.
  const never = !clerk && seconds === 0 && state === "off" && may(meeting, "govern");
  const leave = useNavigate();
  const discard = useChange(
    () =>
      the(
        client.DELETE("/api/captures/{capture_id}", {
          params: { path: { capture_id: meeting.capture! } },
        }),
      ),
    keys.today,
    keys.library,
  );
  const resume = () => {
    setRefused("");
    void engine.resume().catch((error: Error) => setRefused(error.name));
  };
  useKeys({
    o: () => {
      if (here) {
        if (state === "on") void engine.pause();
        else if (state === "off") resume();
      }
    },
  });
  const words =
    state === "on"
      ? t.capture.on
      : state === "stopping"
        ? t.capture.ending
        : seconds > 0
          ? t.capture.off
          : t.capture.begun;
  return (
    <div className="mt-2">
      <div className="flex flex-wrap items-center gap-x-5 gap-y-2">
        <p role="status" className="flex items-center gap-2 text-lg">
          <svg
            viewBox="0 0 12 16"
            width="12"
            height="16"
            aria-hidden
            className={state === "on" ? "text-lichen" : "text-faded"}
          >
            {state === "on" ? (
              <path d="M1 3h2v13H1zM5 0h2v16H5zM9 6h2v10H9z" fill="currentColor" />
            ) : (
              <path d="M0 15h12v1H0z" fill="currentColor" />
            )}
          </svg>
          <span className={state === "on" ? "" : "text-faded"}>{words}</span>{" "}
          <span className="text-faded">{clock(seconds)}</span>
        </p>
        {here && state === "on" && <LevelGauge level={level} label={t.capture.level} />}
        <span className="grow" />
        {here && state === "on" && (
          <>
            <button type="button" className="press" onClick={() => void engine.pause()}>
              {t.capture.goOff}
            </button>
            <button type="button" className="press" onClick={() => setAsking("strike")}>
              {t.capture.strike}
            </button>
          </>
        )}
        {here && state === "off" && (
          <button type="button" className="press press-main" onClick={resume}>
            {t.capture.goOn}
          </button>
        )}
        {here && (state === "on" || state === "off") && (
          <button type="button" className="press" onClick={() => setAsking("stop")}>
            {t.capture.stop}
          </button>
        )}
        <button type="button" className="plain" onClick={() => setAsking("notice")}>
          {t.capture.notice}
        </button>
        <Link className="plain" to={`/meetings/${meeting.id}/captions`} target="_blank">
          {t.live.captions}
        </Link>
      </div>
      {here && trouble && (
        <p role="alert" className="mt-2 border-l-4 border-clay pl-3">
          {t.capture.trouble[trouble]}
        </p>
      )}
      {refused && (
        <p role="alert" className="mt-2 border-l-4 border-clay pl-3">
          {refusal(refused)}
        </p>
      )}
      {here && sending.problem && (
        <p role="alert" className="mt-2 border-l-4 border-clay pl-3">
          {sending.problem}
        </p>
      )}
      {here && (sending.lost || sending.waiting > 3) && (
        <p role="status" className="mt-1 text-sm text-faded">
          {sending.lost ? t.capture.lost : ""} {t.capture.waiting({ n: sending.waiting })}
        </p>
      )}
      {state === "on" && behind > 8 && (
        <p role="status" className="mt-1 text-sm text-faded">
          {t.live.behind({ s: Math.round(behind) })}
        </p>
      )}
      {cut && (
        <div role="alert" className="mt-2 border-l-4 border-brass pl-3">
          <p>{t.capture.reloaded}</p>
          <p className="mt-2 flex flex-wrap gap-3">
            <button type="button" className="press press-main" onClick={() => goOn(cut)}>
              {t.capture.resume}
            </button>
            <button type="button" className="press" onClick={() => void engine.finish(cut)}>
              {t.capture.finish}
            </button>
          </p>
        </div>
      )}
      {!here && !cut && never && (
        <p className="mt-2 flex flex-wrap items-baseline gap-3">
          {t.capture.never}
          <button
            type="button"
            className="press"
            disabled={discard.isPending}
            onClick={() => discard.mutate(undefined, { onSuccess: () => void leave("/capture") })}
          >
            {t.capture.discard}
          </button>
        </p>
      )}
      {!here && !cut && !never && !clerk && state !== "stopped" && may(meeting, "change") && (
        <p className="mt-1 text-sm text-faded">
          {t.capture.notHere}{" "}
          <button
            type="button"
            className="plain underline underline-offset-4"
            title={t.capture.finishHint}
            onClick={() => without.mutate(undefined)}
          >
            {t.capture.finishWithout}
          </button>{" "}
          {t.capture.finishHint}
        </p>
      )}
      <Wrong error={without.error} />
      {asking === "notice" && (
        <Leaf title={t.capture.noticeTitle} close={unasked}>
          <NoticePanel meeting={meeting.id} />
          <button type="button" className="press mt-5" onClick={unasked}>
            {t.live.close}
          </button>
        </Leaf>
      )}
      {asking === "stop" && (
        <Sure
          title={t.capture.sureStop}
          hint={t.capture.stopHint}
          yes={t.capture.stopYes}
          no={t.capture.stopNo}
          act={() => void engine.stop()}
          close={unasked}
        />
      )}
      {asking === "strike" && (
        <Sure
          title={t.capture.strike}
          hint={t.capture.sureStrike}
          yes={t.capture.strikeYes}
          no={t.capture.leave}
          act={() => {
            const before = engine.state.samples;
            void engine
              .pause(STRIKE)
              .then(() =>
                say(t.capture.struck({ time: clock((before - engine.state.samples) / RATE) })),
              );
          }}
          close={unasked}
        />
      )}
    </div>
  );
}

/** The lines with the gaps between them, in order of time. */
export function withGaps(live: Schemas["LiveOut"]) {
  const gaps = live.gaps.map((gap) => ({ at: gap.at, gap }));
  const lines = live.lines.map((line) => ({ at: line.start, line }));
  const messages = live.messages.map((message) => ({ at: message.start, message }));
  return [...lines, ...messages, ...gaps].sort((a, b) => a.at - b.at);
}

/** Whose line it is, where that is known. */
const nameOf = (one?: ReturnType<typeof withGaps>[number]) =>
  one && "line" in one ? one.line.name : "";

function LiveRecord({ meeting, live }: { meeting: string; live: Schemas["LiveOut"] }) {
  const files = useFiles(meeting, live.messages.length > 0).data ?? [];
  const scroll = useRef<HTMLDivElement>(null);
  const follow = useRef(true);
  useEffect(() => {
    if (follow.current) scroll.current?.scrollTo({ top: scroll.current.scrollHeight });
  }, [live]);
  return (
    <div
      ref={scroll}
      onScroll={(event) => {
        const { scrollTop, scrollHeight, clientHeight } = event.currentTarget;
        follow.current = scrollHeight - scrollTop - clientHeight < 80;
      }}
      className="grow overflow-y-auto overscroll-contain px-5 py-4 sm:px-7"
    >
      <h2 className="mb-4 text-lg italic">{t.live.title}</h2>
      {live.lines.length === 0 && <p className="font-serif text-faded italic">{t.live.empty}</p>}
      <ol aria-live="polite" aria-relevant="additions">
        {withGaps(live).map((one, index, all) =>
          "line" in one ? (
            <li
              key={one.line.number}
              className="mb-2 grid grid-cols-[3.2rem_1fr] items-baseline font-serif leading-relaxed"
            >
              <span className="font-sans text-xs text-faded">{clock(one.line.start)}</span>
              <span className={one.line.settled ? "" : "text-faded"}>
                {one.line.name && one.line.name !== nameOf(all[index - 1]) && (
                  <b className="font-sans text-sm">{one.line.name} </b>
                )}
                {one.line.text}
              </span>
            </li>
          ) : "message" in one ? (
            <li
              key={`message-${one.at}-${one.message.text}`}
              className="mb-2 grid grid-cols-[3.2rem_1fr] items-baseline"
            >
              <span className="text-xs text-faded">{clock(one.at)}</span>
              <span className="border-l-2 border-rule pl-2 break-words">
                <b className="text-sm">{one.message.name}</b>{" "}
                <span className="text-sm text-faded">
                  {filesAt(files, one.at).length > 0 ? t.clerk.laid : t.clerk.wrote}
                </span>{" "}
                {one.message.text}
                <InMessage
                  meeting={meeting}
                  text={one.message.text}
                  files={filesAt(files, one.at)}
                />
              </span>
            </li>
          ) : (
            <li
              key={`gap-${one.at}`}
              className="my-3 flex items-center gap-3 text-sm text-faded italic before:h-px before:grow before:bg-rule after:h-px after:grow after:bg-rule"
            >
              {one.gap.length === null
                ? t.live.gapNow
                : one.gap.reason === "sleep"
                  ? t.live.sleepGap({ time: clock(one.gap.length) })
                  : t.live.gap({ time: clock(one.gap.length) })}
            </li>
          ),
        )}
      </ol>
    </div>
  );
}
