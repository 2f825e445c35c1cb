import { useEffect, useRef, useState, type DragEvent } from "react";
import { Link, useNavigate } from "react-router";
import { client, Problem, the } from "../../api/client";
import { keys, useChange, useChoices, useWorkspace } from "../../api/hooks";
import { useSeenBy } from "../../api/usual";
import { uploads, useUploads, type Arriving, type Said } from "../../capture/uploads";
import { Field } from "../../parts/field";
import { Names } from "../../parts/names";
import { Seen } from "../../parts/seen";
import { clock, forField, showLeft, zone } from "../../parts/time";
import { locale, t } from "../../texts";
import { proposeStart } from "./when";

const LANGUAGES = [
  "en",
  "es",
  "gl",
  "ca",
  "pt",
  "fr",
  "de",
  "it",
  "nl",
  "da",
  "no",
  "sv",
  "pl",
  "tr",
  "ar",
  "ja",
  "zh",
];
const named = new Intl.DisplayNames(locale, { type: "language" });

interface Taken {
  id: string;
  title: string;
}

/** Take files in: they travel while one says what they are, and while one is elsewhere. */
export function Give() {
  const files = useUploads();
  const rules = useWorkspace();
  const [over, setOver] = useState(false);
  const [together, setTogether] = useState<"" | "parts" | "tracks">("");
  const [taken, setTaken] = useState<Taken[]>([]);
  const [all, setAll] = useState(0);
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    uploads.add(event.dataTransfer.files);
  };
  const go = useNavigate();
  // Whoever gives one file wants to see what becomes of it; whoever gives several goes on with the next.
  const kept = useRef(0);
  const took = (one: Taken) => {
    kept.current += 1;
    if (uploads.state.all.length > 0 || kept.current > 1) setTaken((before) => [one, ...before]);
    else void go(`/meetings/${one.id}`);
  };
  const groups = together && files.length > 1 ? [files] : files.map((file) => [file]);
  return (
    <div className="mx-auto w-full max-w-3xl px-4 py-8 sm:px-6">
      <h1 className="mb-5 text-2xl">{t.give.title}</h1>
      <label
        onDragOver={(event) => {
          event.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={drop}
        className={`sheet grid cursor-pointer place-items-center gap-3 border-2 border-dashed text-center focus-within:outline-2 focus-within:outline-brass ${files.length ? "p-4" : "p-12"} ${over ? "border-slate bg-wash" : "border-edge"}`}
      >
        <span className="font-serif text-lg">{files.length ? t.give.more : t.give.drop}</span>
        <span className="press">{t.give.choose}</span>
        <span className="max-w-md text-sm text-faded">
          {t.give.kinds}{" "}
          {rules.data?.monthly_minutes != null &&
            t.give.monthly({
              left: Math.max(0, rules.data.monthly_minutes - rules.data.minutes_used),
              all: rules.data.monthly_minutes,
            })}
        </span>
        <input
          type="file"
          multiple
          className="sr-only"
          onChange={(event) => {
            uploads.add(event.target.files ?? []);
            event.target.value = "";
          }}
        />
      </label>
      {taken.length > 0 && (
        <ul role="status" className="mt-4 flex flex-col gap-1">
          {taken.map((one) => (
            <li key={one.id}>
              {t.give.taken}{" "}
              <Link className="font-serif underline underline-offset-4" to={`/meetings/${one.id}`}>
                {one.title}
              </Link>
            </li>
          ))}
        </ul>
      )}
      {files.length > 1 && (
        <fieldset className="mt-4 flex flex-wrap gap-x-6 gap-y-1">
          <legend className="mb-1 font-serif text-sm">{t.give.several({ n: files.length })}</legend>
          {(["", "parts", "tracks"] as const).map((value) => (
            <label key={value} className="flex items-center gap-2">
              <input
                type="radio"
                name="together"
                className="accent-slate"
                checked={together === value}
                onChange={() => setTogether(value)}
              />
              {t.give.together[value]}
            </label>
          ))}
        </fieldset>
      )}
      {groups.map((group) => (
        <Form key={group[0]!.key} files={group} together={together} took={took} all={all} />
      ))}
      {groups.length > 1 && (
        <p className="mt-4 flex items-baseline gap-4">
          <button type="button" className="press press-main" onClick={() => setAll(all + 1)}>
            {t.give.keepAll({ n: groups.length })}
          </button>
          <span className="text-sm text-faded">{t.give.keepAllHint}</span>
        </p>
      )}
    </div>
  );
}

function OnItsWay({ one }: { one: Arriving }) {
  return (
    <div>
      <p className="flex justify-between gap-4">
        <span className="font-serif break-all">{one.file.name}</span>
        <button
          type="button"
          className="plain whitespace-nowrap"
          onClick={() => uploads.drop(one.key)}
        >
          {t.give.remove}
        </button>
      </p>
      <div
        role="progressbar"
        aria-valuenow={one.percent}
        aria-valuemin={0}
        aria-valuemax={100}
        aria-label={one.file.name}
        className="mt-2 h-2 overflow-hidden rounded-card bg-rule"
      >
        <div className="h-full bg-slate" style={{ width: `${one.percent}%` }} />
      </div>
      <p role="status" className="mt-1 flex justify-between gap-4 text-sm text-faded">
        <span>
          {one.state === "arrived"
            ? t.give.arrived
            : one.state === "waiting"
              ? t.give.inTurn
              : t.give.arriving({ percent: one.percent })}
          {one.about?.duration ? ` ${t.give.length({ time: clock(one.about.duration) })}` : ""}
          {one.about?.work ? ` ${t.give.estimate({ time: showLeft(one.about.work) })}` : ""}
        </span>
        {one.state === "sending" && (
          <button type="button" className="plain" onClick={() => uploads.pause(one.key)}>
            {t.give.pause}
          </button>
        )}
        {(one.state === "paused" || (one.state === "failed" && one.file.size > 0)) && (
          <button type="button" className="plain" onClick={() => uploads.resume(one.key)}>
            {t.give.resume}
          </button>
        )}
      </p>
      {one.error && (
        <p role="alert" className="mt-1 text-clay">
          {one.error}
        </p>
      )}
    </div>
  );
}

/** What a file is, or several that are one meeting. */
function Form({
  files,
  together,
  took,
  all,
}: {
  files: readonly Arriving[];
  together: "" | "parts" | "tracks";
  took: (one: Taken) => void;
  /** Counts up when all forms are to be kept at once. */
  all: number;
}) {
  const first = files[0]!;
  const id = (name: string) => `${name}-${first.key}`;
  const { title, when, people, series, language, second, voices, terms } = first.said;
  const seen = useSeenBy(first.said.seen, series);
  const say = (more: Partial<Said>) => uploads.say(first.key, more);
  const [waiting, setWaiting] = useState(false);
  const choices = useChoices();
  // Proposed from the file until somebody says otherwise; what the file says of itself is known only once it has arrived.
  const start =
    when ??
    forField(
      proposeStart(
        first.file.name,
        first.file.lastModified,
        first.about?.recorded_at ?? null,
        first.about?.duration ?? first.lasts,
      ),
    );
  const arrived = files.every((one) => one.id !== null);
  const give = useChange(
    (again: boolean) =>
      the(
        client.POST("/api/meetings", {
          body: {
            upload: first.id!,
            more: files.slice(1).map((one) => one.id!),
            together: together || "parts",
            title,
            started_at: new Date(start).toISOString(),
            time_zone: zone(),
            people,
            series,
            language: language && second ? `${language}+${second}` : language,
            voices: voices ? Number(voices) : null,
            terms: terms.split(/[,;\n]/),
            visibility: seen,
            again,
          },
        }),
      ),
    keys.today,
    keys.library,
    keys.choices,
  );
  const keep = (again = false) =>
    give.mutate(again, {
      onSuccess: (made) => {
        files.forEach((one) => uploads.drop(one.key, true));
        took({ id: made.id, title });
      },
    });
  useEffect(() => {
    if (waiting && arrived) {
      setWaiting(false);
      keep();
    }
    // Only that the file has arrived begins it.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [waiting, arrived]);
  const asked = useRef(all);
  useEffect(() => {
    if (all === asked.current || give.isPending || files.some((one) => one.state === "failed"))
      return;
    asked.current = all;
    if (title.trim()) setWaiting(true);
    // Only that all are to be kept begins it.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [all]);
  const problem = give.error;
  const existing =
    problem instanceof Problem ? (problem.facts.existing as string | undefined) : undefined;
  return (
    <form
      aria-label={first.file.name}
      className="sheet mt-4 flex flex-col gap-5 p-6"
      onSubmit={(event) => {
        event.preventDefault();
        if (arrived) keep();
        else setWaiting(true);
      }}
    >
      {files.map((one) => (
        <OnItsWay key={one.key} one={one} />
      ))}
      <Field label={t.give.meeting} htmlFor={id("title")}>
        <input
          id={id("title")}
          required
          maxLength={200}
          className="field"
          value={title}
          onChange={(e) => say({ title: e.target.value })}
        />
      </Field>
      <div className="grid gap-5 sm:grid-cols-2">
        <Field
          label={t.give.when}
          htmlFor={id("when")}
          hint={when === null ? t.give.proposed({ zone: zone() }) : zone()}
        >
          <input
            id={id("when")}
            type="datetime-local"
            required
            className="field"
            value={start}
            onChange={(e) => say({ when: e.target.value })}
          />
        </Field>
        <Field label={t.give.language} htmlFor={id("language")}>
          <select
            id={id("language")}
            className="field"
            value={language}
            onChange={(e) => say({ language: e.target.value })}
          >
            <option value="">{t.give.detect}</option>
            {LANGUAGES.map((code) => (
              <option key={code} value={code}>
                {named.of(code)}
              </option>
            ))}
          </select>
          {language && (
            <select
              aria-label={t.give.second}
              className="field mt-1"
              value={second}
              onChange={(e) => say({ second: e.target.value })}
            >
              <option value="">{t.give.noSecond}</option>
              {LANGUAGES.filter((code) => code !== language).map((code) => (
                <option key={code} value={code}>
                  {t.give.and({ language: named.of(code)! })}
                </option>
              ))}
            </select>
          )}
        </Field>
      </div>
      <Field label={t.give.people} hint={t.give.peopleHint} htmlFor={id("people")}>
        <Names
          id={id("people")}
          label={t.give.people}
          names={people}
          change={(names) => say({ people: names })}
        />
      </Field>
      <div className="grid gap-5 sm:grid-cols-[minmax(0,1fr)_9rem]">
        <Field
          label={t.give.terms}
          hint={
            <>
              {t.give.termsHint}{" "}
              <Link className="cite" to="/words">
                {t.words.title}
              </Link>
            </>
          }
          htmlFor={id("terms")}
        >
          <input
            id={id("terms")}
            maxLength={2000}
            className="field"
            value={terms}
            onChange={(e) => say({ terms: e.target.value })}
          />
        </Field>
        <Field label={t.give.voices} htmlFor={id("voices")}>
          <input
            id={id("voices")}
            type="number"
            min={1}
            max={30}
            placeholder={t.give.detect}
            className="field placeholder:text-faded"
            value={voices}
            onChange={(e) => say({ voices: e.target.value })}
          />
        </Field>
      </div>
      <Field label={t.give.series} hint={t.give.seriesHint} htmlFor={id("series")}>
        <input
          id={id("series")}
          list="series-known"
          maxLength={200}
          className="field"
          value={series}
          onChange={(e) => say({ series: e.target.value })}
        />
        <datalist id="series-known">
          {choices.data?.series.map((one) => (
            <option key={one} value={one} />
          ))}
        </datalist>
      </Field>
      <fieldset>
        <legend className="mb-1 font-serif text-sm">{t.give.seen}</legend>
        <Seen
          value={seen}
          change={(value) => say({ seen: value })}
          people={people}
          series={series}
        />
      </fieldset>
      {problem && (
        <div role="alert" className="border-l-4 border-clay pl-3">
          <p>{problem.message}</p>
          {existing && (
            <p className="mt-2 flex gap-3">
              <Link className="press" to={`/meetings/${existing}`}>
                {t.give.existing}
              </Link>
              <button type="button" className="press" onClick={() => keep(true)}>
                {t.give.again}
              </button>
            </p>
          )}
        </div>
      )}
      <div className="flex items-center gap-4">
        <button
          type="submit"
          disabled={give.isPending || waiting || files.some((one) => one.state === "failed")}
          className="press press-main"
        >
          {t.give.keep}
        </button>
        {waiting && (
          <span role="status" className="text-sm text-faded">
            {t.give.waitArrive}
          </span>
        )}
      </div>
    </form>
  );
}
