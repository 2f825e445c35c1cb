import { useEffect, useState } from "react";
import { useSearchParams } from "react-router";
import { client, the, type Schemas } from "../../../api/client";
import { keys, useChange, useMe } from "../../../api/hooks";
import { Field } from "../../../parts/field";
import { Leaf } from "../../../parts/leaf";
import { useSay } from "../../../parts/sayings";
import { Wait, Wrong } from "../../../parts/states";
import { clock } from "../../../parts/time";
import { t } from "../../../texts";
import type { Passage } from "./passage";

type Kind = "words" | "span" | "voice";
const seconds = (text: string) => text.split(":").reduce((sum, part) => 60 * sum + Number(part), 0);

/** Strike a passage for good: what goes and what rests on it is shown first; one signs with one's name. */
export function StrikeLeaf({
  meeting,
  passage,
  close,
}: {
  meeting: Schemas["MeetingOut"];
  passage: Passage;
  close: () => void;
}) {
  const say = useSay();
  const me = useMe().data;
  const own = me?.name || me?.email || "";
  const [kind, setKind] = useState<Kind>("words");
  const [from, setFrom] = useState(clock(passage.start));
  const [to, setTo] = useState(clock(passage.end));
  const [voice, setVoice] = useState(meeting.voices[0]?.id ?? 0);
  const [name, setName] = useState("");
  const [takeOwn, setTakeOwn] = useState(true);
  const nothing = { first: null, last: null, start: null, end: null, voice: null };
  const chosen: Schemas["ChosenIn"] =
    kind === "words"
      ? { ...nothing, first: passage.first, last: passage.last }
      : kind === "span"
        ? { ...nothing, start: seconds(from), end: seconds(to) }
        : { ...nothing, voice };
  const at = { params: { path: { meeting_id: meeting.id } } };
  const look = useChange((what: Schemas["ChosenIn"]) =>
    the(client.POST("/api/meetings/{meeting_id}/strike/preview", { ...at, body: what })),
  );
  const strike = useChange(
    (before: string) =>
      the(
        client.POST("/api/meetings/{meeting_id}/strike", {
          ...at,
          body: { ...chosen, name, before, take_own: takeOwn },
        }),
      ),
    keys.meeting(meeting.id),
    keys.library,
    keys.today,
    keys.excerpts,
  );
  const { mutate, reset } = look;
  const [, setParams] = useSearchParams();
  // The lines are counted anew: the number that was chosen is another line's now.
  const forget = () =>
    setParams(
      (old) => {
        old.delete("line");
        return old;
      },
      { replace: true },
    );
  // The words and a voice are shown at once; times are typed first.
  useEffect(() => {
    if (kind === "span") reset();
    else mutate(chosen);
  }, [kind, voice]); // eslint-disable-line react-hooks/exhaustive-deps
  const would = look.data;
  const lengths = would ? Object.entries(would.counts).filter(([, n]) => n > 0) : [];
  return (
    <Leaf title={t.passages.strikeTitle} hint={t.passages.strikeHint} close={close}>
      <fieldset className="mt-2">
        <legend className="font-serif text-sm">{t.passages.whatGoes}</legend>
        <div className="flex flex-wrap gap-x-5 gap-y-1 text-sm">
          {(["words", "span", "voice"] as const).map((one) => (
            <label key={one} className="flex items-center gap-2">
              <input
                type="radio"
                name="strike"
                className="accent-slate"
                checked={kind === one}
                onChange={() => setKind(one)}
              />
              {t.passages.choices[one]}
            </label>
          ))}
        </div>
      </fieldset>
      {kind === "span" && (
        <form
          className="mt-3 flex flex-wrap items-end gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            mutate(chosen);
          }}
        >
          <Field label={t.passages.spanFrom} htmlFor="strike-from">
            <input
              id="strike-from"
              className="field w-28"
              value={from}
              pattern="[0-9]+(:[0-9]{2}){0,2}"
              onChange={(event) => {
                setFrom(event.target.value);
                reset();
              }}
            />
          </Field>
          <Field label={t.passages.spanTo} htmlFor="strike-to">
            <input
              id="strike-to"
              className="field w-28"
              value={to}
              pattern="[0-9]+(:[0-9]{2}){0,2}"
              onChange={(event) => {
                setTo(event.target.value);
                reset();
              }}
            />
          </Field>
          <button type="submit" className="press">
            {t.passages.lookAgain}
          </button>
        </form>
      )}
      {kind === "voice" && (
        <div className="mt-3 max-w-72">
          <Field label={t.passages.whichVoice} htmlFor="strike-voice">
            <select
              id="strike-voice"
              className="field"
              value={voice}
              onChange={(event) => setVoice(Number(event.target.value))}
            >
              {meeting.voices.map((one) => (
                <option key={one.id} value={one.id}>
                  {one.name}
                </option>
              ))}
            </select>
          </Field>
        </div>
      )}
      {look.isPending && <Wait />}
      <Wrong error={look.error} className="mt-3" />
      {would && (
        <div className="mt-3 text-sm">
          {would.text && (
            <p
              tabIndex={0}
              className="max-h-32 overflow-y-auto border-y border-rule py-2 font-serif"
            >
              <del className="decoration-clay">{would.text}</del>
            </p>
          )}
          <p role="status" className="mt-2">
            {meeting.recording?.playable
              ? t.passages.goes({ words: would.words, time: clock(would.seconds) })
              : t.passages.goesText({ words: would.words })}
          </p>
          {would.drawn.length > 0 && (
            <>
              <h3 className="mt-3 text-sm">{t.passages.rests}</h3>
              <Rows rows={would.drawn} />
            </>
          )}
          {would.own.length > 0 && (
            <>
              <h3 className="mt-3 text-sm">{t.passages.own}</h3>
              <Rows rows={would.own} />
              <label className="mt-1 flex items-center gap-2">
                <input
                  type="checkbox"
                  className="accent-slate"
                  checked={takeOwn}
                  onChange={(event) => setTakeOwn(event.target.checked)}
                />
                {t.passages.takeOwn}
              </label>
            </>
          )}
          {lengths.length > 0 && (
            <p className="mt-3">
              {t.passages.also}:{" "}
              {lengths
                .map(([what, n]) =>
                  t.passages.counts[what as keyof typeof t.passages.counts]({ n }),
                )
                .join(", ")}
              .
            </p>
          )}
          <form
            className="mt-4"
            onSubmit={(event) => {
              event.preventDefault();
              strike.mutate(would.text, {
                onSuccess: () => {
                  close();
                  forget();
                  say(
                    would.files && meeting.recording?.playable
                      ? t.passages.struck
                      : t.passages.struckText,
                  );
                },
              });
            }}
          >
            <Field label={t.passages.sign({ name: own })} htmlFor="strike-name">
              <input
                id="strike-name"
                className="field"
                autoComplete="off"
                value={name}
                onChange={(event) => setName(event.target.value)}
              />
            </Field>
            <Wrong error={strike.error} className="mt-2" />
            <p className="mt-4 flex gap-3">
              <button
                type="submit"
                className="press border-clay text-clay"
                disabled={name.trim().toLowerCase() !== own.toLowerCase() || strike.isPending}
              >
                {t.passages.doStrike}
              </button>
              <button type="button" className="plain" onClick={close}>
                {t.record.leave}
              </button>
            </p>
          </form>
        </div>
      )}
    </Leaf>
  );
}

function Rows({ rows }: { rows: Schemas["RestingOut"][] }) {
  return (
    <ul tabIndex={0} className="mt-1 max-h-28 overflow-y-auto">
      {rows.map((row, index) => (
        <li key={index} className="border-b border-rule py-0.5 font-serif last:border-0">
          {row.hand && <span className="text-xs text-faded italic">{row.hand} </span>}
          {row.text}
        </li>
      ))}
    </ul>
  );
}
