import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { client, the } from "../../api/client";
import { useEvents, useLive, useWorkspace } from "../../api/hooks";
import { engine } from "../../capture/engine";
import { RATE } from "../../capture/keep";
import { useCapture } from "../../capture/use";
import { LevelGauge } from "../../parts/level";
import { zone } from "../../parts/time";
import { t } from "../../texts";
import { refusal } from "./capture";

const LASTS = 120; // seconds
const decibels = (rms: number) => 20 * Math.log10(Math.max(rms, 1e-5));

/** Two minutes that show whether microphone, level, network, notice and the way to the record work. Nothing of it is kept. */
export function Rehearsal() {
  const { phase, level, samples, capture, sending } = useCapture();
  const [begun, setBegun] = useState<{ id: string; meeting: string } | null>(null);
  const [refused, setRefused] = useState("");
  const [words, setWords] = useState("");
  const [loud, setLoud] = useState<number[]>([]);
  const [clipped, setClipped] = useState(0);
  const running = begun !== null && phase === "on";
  const over = useRef(() => undefined as void);

  async function start() {
    setRefused("");
    setWords("");
    setLoud([]);
    setClipped(0);
    const id = crypto.randomUUID();
    try {
      const made = await the(
        client.POST("/api/captures", {
          body: {
            id,
            title: t.rehearsal.title,
            started_at: new Date().toISOString(),
            time_zone: zone(),
            language: "",
            series: "",
            people: [],
            place: "rehearsal",
            visibility: "mine",
          },
        }),
      );
      setBegun(made);
      await engine.begin(
        { ...made, title: t.rehearsal.title },
        { microphone: localStorage.getItem("microphone") ?? "", beside: "nothing" },
      );
    } catch (error) {
      setRefused(error instanceof DOMException ? refusal(error.name) : (error as Error).message);
      await stop(id);
    }
  }
  async function stop(id = begun?.id) {
    setBegun(null);
    await engine.discard();
    if (id)
      await client.DELETE("/api/captures/{capture_id}", { params: { path: { capture_id: id } } });
  }
  over.current = () => void stop();
  useEffect(() => {
    if (!running || level.rms === 0) return;
    setLoud((all) => [...all, decibels(level.rms)]);
    if (level.clipped > 5) setClipped((count) => count + 1);
  }, [running, level]);
  const seconds = Math.floor(samples / RATE);
  useEffect(() => {
    if (running && seconds >= LASTS) over.current();
  }, [running, seconds]);
  // Leaving the page ends it, too.
  useEffect(
    () => () => {
      if (engine.state.capture && engine.state.capture.title === t.rehearsal.title) over.current();
    },
    [],
  );

  const sorted = [...loud].sort((a, b) => a - b);
  const at = (share: number) => sorted[Math.floor(share * (sorted.length - 1))] ?? -100;
  const [floor, voice] = [at(0.15), at(0.92)];
  const enough = loud.length > 40;
  const rows: Record<string, string> = {
    microphone: loud.length
      ? t.rehearsal.microphone.good
      : refused
        ? t.rehearsal.microphone.bad
        : "",
    level: !enough
      ? ""
      : clipped > 3
        ? t.rehearsal.level.loud
        : voice < -52
          ? t.rehearsal.level.none
          : voice - floor < 12
            ? t.rehearsal.level.low
            : t.rehearsal.level.good,
    noise: !enough ? "" : floor > -45 ? t.rehearsal.noise.bad : t.rehearsal.noise.good,
    network: sending.lost
      ? t.rehearsal.network.none
      : sending.took === null
        ? ""
        : sending.took < 700
          ? t.rehearsal.network.good({ ms: sending.took })
          : t.rehearsal.network.bad({ ms: sending.took }),
    hearing: words
      ? t.rehearsal.hearing.good({ words })
      : seconds > 25
        ? t.rehearsal.hearing.none
        : "",
    notice: "",
  };
  return (
    <div className="mx-auto w-full max-w-3xl px-4 py-8 sm:px-6">
      <h1 className="mb-1 text-2xl">{t.rehearsal.title}</h1>
      <p className="mb-5 text-faded">{t.rehearsal.intro}</p>
      <div className="sheet flex flex-col gap-4 p-6">
        {refused && (
          <p role="alert" className="border-l-4 border-clay pl-3">
            {refused}
          </p>
        )}
        {running ? (
          <>
            <p className="font-serif text-lg">{t.rehearsal.speak}</p>
            <div className="flex flex-wrap items-center gap-4">
              <LevelGauge level={level} label={t.capture.level} />
              <span className="text-faded">
                {t.rehearsal.left({ s: Math.max(0, LASTS - seconds) })}
              </span>
              <span className="grow" />
              <button type="button" className="press press-main" onClick={() => void stop()}>
                {t.rehearsal.stop}
              </button>
            </div>
          </>
        ) : (
          <p className="flex flex-wrap gap-3">
            <button
              type="button"
              disabled={capture !== null && phase !== "idle"}
              className="press press-main"
              onClick={() => void start()}
            >
              {loud.length ? t.rehearsal.again : t.rehearsal.start}
            </button>
            <Link className="press" to="/capture">
              {t.rehearsal.toCapture}
            </Link>
          </p>
        )}
        {(running || loud.length > 0) && (
          <dl className="grid gap-y-2 sm:grid-cols-[11rem_1fr]">
            {Object.entries(t.rehearsal.rows).map(([key, label]) => (
              <div key={key} className="contents">
                <dt className="font-serif italic">{label}</dt>
                <dd>
                  {key === "notice" ? (
                    <NoticeRow />
                  ) : (
                    rows[key] || (
                      <span className="text-faded">{running ? t.rehearsal.waiting : "–"}</span>
                    )
                  )}
                </dd>
              </div>
            ))}
          </dl>
        )}
      </div>
      {begun && <Heard meeting={begun.meeting} heard={setWords} />}
    </div>
  );
}

function NoticeRow() {
  const rules = useWorkspace();
  return (
    <>{rules.data && t.rehearsal.notice.good({ n: Object.keys(rules.data.notices).length })}</>
  );
}

/** Passes on the first words of the live record. */
function Heard({ meeting, heard }: { meeting: string; heard: (words: string) => void }) {
  useEvents(meeting);
  const live = useLive(meeting);
  const words =
    live.data?.lines
      .filter((line) => line.settled)
      .map((line) => line.text)
      .join(" ") ?? "";
  useEffect(() => {
    if (words) heard(words.split(" ").slice(-14).join(" "));
  }, [words, heard]);
  return null;
}
