import { useState } from "react";
import type { Schemas } from "../../../api/client";
import { useRecord } from "../../../api/hooks";
import { copyFrom } from "../../../parts/copy";
import { Field } from "../../../parts/field";
import { Leaf } from "../../../parts/leaf";
import { useSay } from "../../../parts/sayings";
import { t } from "../../../texts";
import { PaperAway } from "./paper";
import { SoundAway } from "./sound";
import { Stretches, type Stretch } from "./stretches";

/** Forms that take a while to set. */
const PAPER = ["docx", "pdf"];
const ASKED = ["speakers", "times", "marks", "joined", "link"] as const;

/** The record, or a part of it, as text to paste or as a file. */
export function Outward({
  meeting,
  chapters,
  close,
}: {
  meeting: Schemas["MeetingOut"];
  chapters: Schemas["ChapterOut"][];
  close: () => void;
}) {
  const say = useSay();
  const [asked, setAsked] = useState({
    speakers: true,
    times: true,
    marks: false,
    joined: true,
    link: false,
  });
  const [part, setPart] = useState<Stretch>(null);
  const [error, setError] = useState("");
  const long = useRecord(meeting.id).data?.long ?? false;
  const forms = Object.entries(t.record.forms) as [string, string][];
  const address = (form: string, more: Record<string, string> = {}) =>
    `/api/meetings/${meeting.id}/record.${form}?${new URLSearchParams({ ...Object.fromEntries(ASKED.map((name) => [name, String(asked[name])])), ...(part ? { start: String(part.start), end: String(part.end) } : {}), ...more })}`;
  async function copy() {
    try {
      await copyFrom(address("txt"));
      say(t.record.copied);
    } catch (wrong) {
      setError(wrong instanceof Error ? wrong.message : String(wrong));
    }
  }
  return (
    <Leaf title={t.record.awayTitle} close={close}>
      <div className="mt-3 max-w-80">
        <Field label={t.record.part} htmlFor="away-part">
          <Stretches id="away-part" meeting={meeting} chapters={chapters} change={setPart} />
        </Field>
      </div>
      <fieldset className="mt-3">
        <legend className="font-serif text-sm">{t.record.with}</legend>
        <div className="flex flex-wrap gap-x-4 gap-y-1 text-sm">
          {ASKED.map((name) => (
            <label key={name} className="flex items-center gap-2">
              <input
                type="checkbox"
                className="accent-slate"
                checked={asked[name]}
                onChange={(event) => setAsked({ ...asked, [name]: event.target.checked })}
              />
              {t.record[name]}
            </label>
          ))}
        </div>
      </fieldset>
      <p className="mt-4 flex flex-wrap gap-2">
        <button type="button" className="press press-main" onClick={() => void copy()}>
          {t.record.copy}
        </button>
        {forms
          .filter(([form]) => !long || !PAPER.includes(form))
          .map(([form, label]) => (
            <a key={form} className="press" href={address(form)} download>
              {label}
            </a>
          ))}
        {long && (
          <PaperAway
            meeting={meeting.id}
            wanted={{ ...asked, captions: false, ...(part ?? {}) }}
            forms={forms.filter(([form]) => PAPER.includes(form))}
          />
        )}
      </p>
      {[
        ["captions", t.record.captions, t.record.captionsHint],
        ["lines", t.record.timed, t.record.timedHint],
      ].map(([kind, label, hint]) => (
        <p key={kind} className="mt-3 flex flex-wrap items-center gap-2">
          <span className="w-32 font-serif text-sm">{label}</span>
          {["vtt", "srt"].map((form) => (
            <a
              key={form}
              className="press"
              href={address(form, { captions: String(kind === "captions") })}
              download
              aria-label={`${label}, ${form === "vtt" ? "WebVTT" : "SRT"}`}
            >
              {form === "vtt" ? "WebVTT" : "SRT"}
            </a>
          ))}
          <span className="w-full text-xs text-faded">{hint}</span>
        </p>
      ))}
      {meeting.recording?.playable && <SoundAway meeting={meeting} />}
      {error && (
        <p role="alert" className="mt-3 text-clay">
          {error}
        </p>
      )}
      <button type="button" className="plain mt-4" onClick={close}>
        {t.minutes.close}
      </button>
    </Leaf>
  );
}
