import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { anew } from "../../api/anew";
import { client, the } from "../../api/client";
import {
  keys,
  useAgendas,
  useChange,
  useChoices,
  useMe,
  usePlanned,
  useWorkspace,
} from "../../api/hooks";
import { useSeenBy } from "../../api/usual";
import { engine } from "../../capture/engine";
import type { Beside } from "../../capture/sources";
import { useCapture, useMicrophone } from "../../capture/use";
import { Field } from "../../parts/field";
import { LevelGauge } from "../../parts/level";
import { Names } from "../../parts/names";
import { Seen, type Visibility } from "../../parts/seen";
import { zone } from "../../parts/time";
import { locale, t } from "../../texts";
import { Send } from "../clerk/visits";
import { Tell } from "./tell";

const LANGUAGES = ["en", "es", "gl", "ca", "pt", "fr", "de", "it", "nl"];
const named = new Intl.DisplayNames(locale, { type: "language" });
const when = new Intl.DateTimeFormat(locale, {
  weekday: "long",
  hour: "2-digit",
  minute: "2-digit",
});

export function refusal(name: string): string {
  return t.capture.refused[name] ?? t.capture.refused.other;
}

const QUESTION = "begun";
interface Begun {
  id: string;
  meeting: string;
  title: string;
}

/** A capture that was begun and of which people have not been told yet: the question is asked again after a reload. */
function keptQuestion(): Begun | null {
  const kept = sessionStorage.getItem(QUESTION);
  return kept ? (JSON.parse(kept) as Begun) : null;
}

/** What is captured and with what; then who was told; then on the record. */
export function Capture() {
  const [params] = useSearchParams();
  const [sending, setSending] = useState(false);
  const memo = params.has("memo");
  const planned = usePlanned(Number(params.get("planned")) || null).data;
  const running = useCapture();
  const me = useMe();
  const rules = useWorkspace();
  const monthly = rules.data?.monthly_minutes ?? null;
  const choices = useChoices();
  const agendas = useAgendas();
  const cache = useQueryClient();
  const go = useNavigate();
  const [title, setTitle] = useState("");
  const [people, setPeople] = useState<string[]>([]);
  const [series, setSeries] = useState("");
  const [language, setLanguage] = useState("");
  const [agenda, setAgenda] = useState("");
  const [chosen, setSeen] = useState<Visibility | null>(null);
  const seen = useSeenBy(chosen, series);
  const [microphone, setMicrophone] = useState(() => localStorage.getItem("microphone") ?? "");
  const [beside, setBeside] = useState<Beside>("nothing");
  const [begun, setBegun] = useState(keptQuestion);
  useEffect(() => {
    if (!planned) return;
    setTitle(planned.title);
    setPeople(planned.people.filter((one) => one.answer !== "declined").map((one) => one.name));
    if (planned.link) setBeside("computer");
  }, [planned]);
  useEffect(() => {
    if (begun) sessionStorage.setItem(QUESTION, JSON.stringify(begun));
    else sessionStorage.removeItem(QUESTION);
  }, [begun]);
  const [refused, setRefused] = useState("");
  const idle = running.phase === "idle" || running.phase === "ending";
  const { level, refused: silent, devices } = useMicrophone(microphone, idle && !begun);
  const otherwise = memo
    ? t.capture.memoFor({ names: people.join(", ") || "…" })
    : t.capture.untitled({ when: when.format(new Date()) });
  const make = useChange(
    async () => {
      const called = title.trim() || otherwise;
      const made = await the(
        client.POST("/api/captures", {
          body: {
            id: crypto.randomUUID(),
            title: called,
            started_at: new Date().toISOString(),
            time_zone: zone(),
            language,
            series,
            people: memo && me.data?.name ? [...people, me.data.name] : people,
            place: memo ? "memo" : beside === "nothing" ? "room" : "online",
            visibility: seen,
            ...(planned?.planned ? { planned: planned.planned } : {}),
          },
        }),
      );
      const points = agendas.data?.find((one) => one.name === agenda)?.points;
      if (points)
        await the(
          client.PUT("/api/meetings/{meeting_id}/agenda", {
            params: { path: { meeting_id: made.meeting } },
            body: { points },
          }),
        );
      return { ...made, title: called };
    },
    keys.today,
    keys.days,
  );
  useEffect(() => {
    void engine.wake();
  }, []);

  async function start(capture: Begun) {
    try {
      await engine.begin(capture, { microphone, beside });
      setBegun(null);
      await go(`/meetings/${capture.meeting}`);
    } catch (error) {
      setRefused((error as Error).name);
      setBegun(null);
      // Nothing was captured, so nothing is left of it.
      await client.DELETE("/api/captures/{capture_id}", {
        params: { path: { capture_id: capture.id } },
      });
      await anew(cache, keys.today);
    }
  }
  const begin = () => {
    setRefused("");
    make.mutate(undefined, { onSuccess: (made) => (memo ? void start(made) : setBegun(made)) });
  };

  if (running.phase === "on" || running.phase === "off") {
    return (
      <div className="mx-auto w-full max-w-3xl px-4 py-8 sm:px-6">
        <h1 className="mb-4 text-2xl">{t.capture.title}</h1>
        <p className="mb-4">
          {running.capture!.title}: {running.phase === "on" ? t.capture.on : t.capture.off}
        </p>
        <Link className="press press-main" to={`/meetings/${running.capture!.meeting}`}>
          {t.capture.openIt}
        </Link>
      </div>
    );
  }
  return (
    <div className="mx-auto w-full max-w-3xl px-4 py-8 sm:px-6">
      <h1 className="mb-1 text-2xl">{memo ? t.capture.memoTitle : t.capture.title}</h1>
      <p className="mb-5 text-faded">
        {memo ? (
          t.capture.memoHint
        ) : (
          <>
            <Link className="plain px-0 underline underline-offset-4" to="/rehearsal">
              {t.capture.rehearse}
            </Link>{" "}
            ·{" "}
            <Link className="plain px-0 underline underline-offset-4" to="/capture?memo">
              {t.capture.memo}
            </Link>{" "}
            ·{" "}
            <Link className="plain px-0 underline underline-offset-4" to="/give">
              {t.nav.give}
            </Link>{" "}
            ·{" "}
            <button
              type="button"
              className="plain px-0 underline underline-offset-4"
              onClick={() => setSending(true)}
            >
              {t.clerk.send}
            </button>
            {sending && <Send close={() => setSending(false)} />}
          </>
        )}
      </p>
      {running.elsewhere && (
        <p role="status" className="mb-4 border-l-4 border-brass pl-3">
          {t.capture.elsewhere}
        </p>
      )}
      <form
        className="sheet flex flex-col gap-5 p-6"
        onSubmit={(event) => {
          event.preventDefault();
          begin();
        }}
      >
        <div className="grid gap-5">
          <div className="flex flex-col gap-2">
            <Field label={t.capture.microphone} htmlFor="microphone">
              <select
                id="microphone"
                className="field"
                value={microphone}
                onChange={(event) => {
                  setMicrophone(event.target.value);
                  localStorage.setItem("microphone", event.target.value);
                }}
              >
                <option value="">{t.capture.anyMicrophone}</option>
                {devices
                  .filter((one) => one.deviceId !== "default")
                  .map((one) => (
                    <option key={one.deviceId} value={one.deviceId}>
                      {one.label || one.deviceId}
                    </option>
                  ))}
              </select>
            </Field>
            <div className="flex items-center gap-3">
              <LevelGauge level={level} label={t.capture.level} />
              <span className="text-sm text-faded">{silent ? "" : t.capture.speak}</span>
            </div>
          </div>
        </div>
        {(silent ?? refused) && (
          <p role="alert" className="border-l-4 border-clay pl-3">
            {refusal(refused || silent!)}
          </p>
        )}
        {make.error && (
          <p role="alert" className="border-l-4 border-clay pl-3">
            {make.error.message}
          </p>
        )}
        <Field
          label={memo ? t.capture.memoTo : t.capture.present}
          hint={memo ? "" : t.give.peopleHint}
          htmlFor="people"
        >
          <Names
            id="people"
            label={memo ? t.capture.memoTo : t.capture.present}
            names={people}
            change={setPeople}
          />
        </Field>
        <Field label={t.capture.what} htmlFor="title">
          <input
            id="title"
            maxLength={200}
            placeholder={otherwise}
            className="field placeholder:text-faded placeholder:italic"
            value={title}
            onChange={(event) => setTitle(event.target.value)}
          />
        </Field>
        {!memo && (
          <>
            <fieldset className="flex flex-col gap-1">
              <legend className="mb-1 font-serif text-sm">{t.capture.sources}</legend>
              {(
                [
                  ["nothing", t.capture.room, ""],
                  ["computer", t.capture.both, t.capture.bothHint],
                  ["screen", t.capture.screen, t.capture.screenHint],
                ] as const
              ).map(([value, label, hint]) => (
                <label key={label} className="flex items-baseline gap-2">
                  <input
                    type="radio"
                    name="sources"
                    checked={beside === value}
                    onChange={() => setBeside(value)}
                    className="accent-slate"
                  />
                  <span>
                    {label}
                    {hint && <span className="block text-sm text-faded">{hint}</span>}
                  </span>
                </label>
              ))}
            </fieldset>
            <div className="grid gap-5 sm:grid-cols-3">
              <Field label={t.give.series} htmlFor="series">
                <input
                  id="series"
                  list="series-known"
                  maxLength={200}
                  className="field"
                  value={series}
                  onChange={(event) => setSeries(event.target.value)}
                />
                <datalist id="series-known">
                  {choices.data?.series.map((one) => (
                    <option key={one} value={one} />
                  ))}
                </datalist>
              </Field>
              <Field label={t.capture.agenda} htmlFor="agenda">
                <select
                  id="agenda"
                  className="field"
                  value={agenda}
                  onChange={(event) => setAgenda(event.target.value)}
                >
                  <option value="">{t.capture.noAgenda}</option>
                  {agendas.data?.map((one) => (
                    <option key={one.name}>{one.name}</option>
                  ))}
                </select>
              </Field>
              <Field label={t.give.language} htmlFor="language">
                <select
                  id="language"
                  className="field"
                  value={language}
                  onChange={(event) => setLanguage(event.target.value)}
                >
                  <option value="">{t.give.detect}</option>
                  {LANGUAGES.map((code) => (
                    <option key={code} value={code}>
                      {named.of(code)}
                    </option>
                  ))}
                </select>
              </Field>
            </div>
            <fieldset>
              <legend className="mb-1 font-serif text-sm">{t.give.seen}</legend>
              <Seen value={seen} change={setSeen} people={people} series={series} />
            </fieldset>
          </>
        )}
        <div>
          <button
            type="submit"
            disabled={make.isPending || begun !== null || running.elsewhere}
            className="press press-main justify-center px-8 py-3 text-lg"
          >
            {t.capture.begin}
          </button>
        </div>
        <p className="text-sm text-faded">
          {monthly === null
            ? t.capture.anyLength
            : t.capture.limits({
                allowed: monthly,
                left: Math.max(0, monthly - (rules.data?.minutes_used ?? 0)),
              })}
        </p>
      </form>
      {begun && (
        <Tell
          meeting={begun.meeting}
          begin={() => void start(begun)}
          cancel={() => {
            void client.DELETE("/api/captures/{capture_id}", {
              params: { path: { capture_id: begun.id } },
            });
            setBegun(null);
          }}
        />
      )}
      <Unfinished />
    </div>
  );
}

/** Captures that were cut off on this device: to be finished, or gone on with. */
export function Unfinished() {
  const { unfinished } = useCapture();
  const go = useNavigate();
  if (!unfinished.length) return null;
  return (
    <ul className="mt-4">
      {unfinished.map((one) => (
        <li key={one.id} role="alert" className="sheet border-l-4 border-l-brass p-4">
          <p>{t.capture.unfinished({ title: one.title })}</p>
          <p className="mt-2 flex flex-wrap gap-3">
            <button
              type="button"
              className="press press-main"
              onClick={() => {
                void engine.finish(one);
                void go(`/meetings/${one.meeting}`);
              }}
            >
              {t.capture.finish}
            </button>
            <button
              type="button"
              className="press"
              onClick={() => {
                void engine
                  .begin(
                    one,
                    { microphone: localStorage.getItem("microphone") ?? "", beside: "nothing" },
                    one,
                  )
                  .then(() => go(`/meetings/${one.meeting}`));
              }}
            >
              {t.capture.resume}
            </button>
          </p>
        </li>
      ))}
    </ul>
  );
}
