import { useEffect, useState, type DragEvent } from "react";
import { Link, useNavigate } from "react-router";
import { client, Problem, the } from "../../api/client";
import { keys, useChange, useChoices } from "../../api/hooks";
import { Field } from "../../parts/field";
import { Names } from "../../parts/names";
import { Seen } from "../../parts/seen";
import { forField, zone } from "../../parts/time";
import { t } from "../../texts";
import { useUpload } from "./upload";

const LANGUAGES = ["en", "es", "gl", "ca", "pt", "fr", "de", "it", "nl", "da", "no", "sv", "pl", "tr", "ar", "ja", "zh"];
const named = new Intl.DisplayNames(undefined, { type: "language" });

/** Take a file in: it travels while one says what it is. */
export function Give() {
  const { arriving, start, pause, resume, clear } = useUpload();
  const [over, setOver] = useState(false);
  const [title, setTitle] = useState("");
  const [when, setWhen] = useState(() => forField(new Date()));
  const [people, setPeople] = useState<string[]>([]);
  const [series, setSeries] = useState("");
  const [language, setLanguage] = useState("");
  const [seen, setSeen] = useState("present");
  const [waiting, setWaiting] = useState(false);
  const choices = useChoices();
  const go = useNavigate();
  const give = useChange((again: boolean) => the(client.POST("/api/meetings", { body: {
    upload: arriving!.id!, title, started_at: new Date(when).toISOString(), time_zone: zone(), people, series, language, visibility: seen as "present", again,
  } })), keys.today, keys.library);
  const keep = (again = false) => give.mutate(again, { onSuccess: ({ id }) => void go(`/meetings/${id}`) });

  function choose(file: File | undefined) {
    if (!file) return;
    setTitle((old) => old || file.name.replace(/\.\w+$/, "").replace(/[_-]+/g, " "));
    // When a recording was last written is near its end; a better guess than now.
    setWhen(forField(new Date(file.lastModified)));
    give.reset();
    start(file);
  }
  useEffect(() => {
    if (waiting && arriving?.id) {
      setWaiting(false);
      keep();
    }
  });
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    choose(event.dataTransfer.files[0]);
  };
  const problem = give.error;
  const existing = problem instanceof Problem ? (problem.facts.existing as string | undefined) : undefined;
  return (
    <div className="mx-auto w-full max-w-3xl px-4 py-8 sm:px-6">
      <h1 className="mb-5 text-2xl">{t.give.title}</h1>
      {!arriving ? (
        <label onDragOver={(event) => { event.preventDefault(); setOver(true); }} onDragLeave={() => setOver(false)} onDrop={drop}
          className={`sheet grid cursor-pointer place-items-center gap-3 border-2 border-dashed p-12 text-center focus-within:outline-2 focus-within:outline-brass ${over ? "border-slate bg-wash" : "border-edge"}`}>
          <span className="font-serif text-lg">{t.give.drop}</span>
          <span className="press">{t.give.choose}</span>
          <span className="max-w-md text-sm text-faded">{t.give.kinds}</span>
          <input type="file" className="sr-only" onChange={(event) => choose(event.target.files?.[0])} />
        </label>
      ) : (
        <form className="sheet flex flex-col gap-5 p-6" onSubmit={(event) => { event.preventDefault(); if (arriving.id) keep(); else setWaiting(true); }}>
          <div>
            <p className="flex justify-between gap-4"><span className="font-serif break-all">{arriving.file.name}</span><button type="button" className="plain whitespace-nowrap" onClick={() => { clear(); give.reset(); setTitle(""); }}>{t.give.remove}</button></p>
            <div role="progressbar" aria-valuenow={arriving.percent} aria-valuemin={0} aria-valuemax={100} aria-label={arriving.file.name} className="mt-2 h-2 overflow-hidden rounded-card bg-rule"><div className="h-full bg-slate" style={{ width: `${arriving.percent}%` }} /></div>
            <p role="status" className="mt-1 flex justify-between text-sm text-faded"><span>{arriving.id ? t.give.arrived : t.give.arriving(arriving.percent)}</span>
              {!arriving.id && !arriving.error && <button type="button" className="plain" onClick={arriving.paused ? resume : pause}>{arriving.paused ? t.give.resume : t.give.pause}</button>}</p>
            {arriving.error && <p role="alert" className="mt-1 text-clay">{arriving.error}</p>}
          </div>
          <Field label={t.give.meeting} htmlFor="title"><input id="title" required maxLength={200} className="field" value={title} onChange={(e) => setTitle(e.target.value)} /></Field>
          <div className="grid gap-5 sm:grid-cols-2">
            <Field label={t.give.when} htmlFor="when" hint={zone()}><input id="when" type="datetime-local" required className="field" value={when} onChange={(e) => setWhen(e.target.value)} /></Field>
            <Field label={t.give.language} htmlFor="language">
              <select id="language" className="field" value={language} onChange={(e) => setLanguage(e.target.value)}><option value="">{t.give.detect}</option>{LANGUAGES.map((code) => <option key={code} value={code}>{named.of(code)}</option>)}</select>
            </Field>
          </div>
          <Field label={t.give.people} hint={t.give.peopleHint} htmlFor="people"><Names id="people" label={t.give.people} names={people} change={setPeople} /></Field>
          <Field label={t.give.series} hint={t.give.seriesHint} htmlFor="series"><input id="series" list="series-known" maxLength={200} className="field" value={series} onChange={(e) => setSeries(e.target.value)} /><datalist id="series-known">{choices.data?.series.map((one) => <option key={one} value={one} />)}</datalist></Field>
          <fieldset><legend className="mb-1 font-serif text-sm">{t.give.seen}</legend><Seen value={seen} change={setSeen} /></fieldset>
          {problem && (
            <div role="alert" className="border-l-4 border-clay pl-3">
              <p>{problem.message}</p>
              {existing && <p className="mt-2 flex gap-3"><Link className="press" to={`/meetings/${existing}`}>{t.give.existing}</Link><button type="button" className="press" onClick={() => keep(true)}>{t.give.again}</button></p>}
            </div>
          )}
          <div className="flex items-center gap-4"><button type="submit" disabled={give.isPending || waiting || !!arriving.error && !arriving.id} className="press press-main">{t.give.keep}</button>{waiting && <span role="status" className="text-sm text-faded">{t.give.waitArrive}</span>}</div>
        </form>
      )}
    </div>
  );
}
