import { useState } from "react";
import { client, the, type Schemas } from "../../../api/client";
import { useChange, useKinds } from "../../../api/hooks";
import { copyText } from "../../../parts/copy";
import { Field } from "../../../parts/field";
import { Leaf } from "../../../parts/leaf";
import { useSay } from "../../../parts/sayings";
import { Empty, Wrong } from "../../../parts/states";
import { clock } from "../../../parts/time";
import { t } from "../../../texts";

/** A memo: all of one kind of thing, about something, by somebody, each with where it was said. */
export function Gather({
  meeting,
  close,
  hear,
}: {
  meeting: Schemas["MeetingOut"];
  close: () => void;
  hear: (line: number, start: number) => void;
}) {
  const kinds = useKinds();
  const say = useSay();
  const [kind, setKind] = useState("requests");
  const [about, setAbout] = useState("");
  const [speaker, setSpeaker] = useState("");
  const gather = useChange(() =>
    the(
      client.GET("/api/meetings/{meeting_id}/memo", {
        params: { path: { meeting_id: meeting.id }, query: { kind, about, speaker } },
      }),
    ),
  );
  const memo = gather.data;
  const text = () =>
    `${meeting.title}: ${memo!.heading}\n\n${memo!.lines.map((line) => `- ${line.text} [${clock(line.start)}]`).join("\n")}\n`;
  return (
    <Leaf title={t.minutes.gatherTitle} close={close}>
      <form
        className="mt-3 grid items-end gap-3 sm:grid-cols-[1fr_1fr_1fr_auto]"
        onSubmit={(event) => {
          event.preventDefault();
          gather.mutate(undefined);
        }}
      >
        <Field label={t.minutes.kind} htmlFor="gather-kind">
          <select
            id="gather-kind"
            className="field"
            value={kind}
            onChange={(event) => setKind(event.target.value)}
          >
            <option value="">{t.minutes.anyKind}</option>
            {kinds.data?.map((one) => (
              <option key={one.kind} value={one.kind}>
                {one.heading}
              </option>
            ))}
          </select>
        </Field>
        <Field label={t.minutes.about} htmlFor="gather-about">
          <input
            id="gather-about"
            className="field placeholder:text-faded placeholder:italic"
            placeholder={t.minutes.aboutHint}
            value={about}
            onChange={(event) => setAbout(event.target.value)}
          />
        </Field>
        <Field label={t.minutes.by} htmlFor="gather-by">
          <select
            id="gather-by"
            className="field"
            value={speaker}
            onChange={(event) => setSpeaker(event.target.value)}
          >
            <option value="">{t.minutes.anyone}</option>
            {meeting.voices.map((voice) => (
              <option key={voice.id} value={voice.name}>
                {voice.name}
              </option>
            ))}
          </select>
        </Field>
        <button
          type="submit"
          className="press press-main"
          disabled={gather.isPending || !(kind || about.trim() || speaker)}
        >
          {t.minutes.gatherIt}
        </button>
      </form>
      <Wrong error={gather.error} className="mt-3" />
      {memo &&
        (memo.lines.length ? (
          <>
            <p
              role="status"
              className="mt-4 flex items-baseline justify-between text-sm text-faded"
            >
              {t.minutes.gathered({ n: memo.lines.length })}
              <button
                type="button"
                className="press px-2 py-0.5"
                onClick={() => void copyText(text()).then(() => say(t.minutes.copied))}
              >
                {t.minutes.copyMemo}
              </button>
            </p>
            <ul tabIndex={0} className="mt-1 max-h-[50dvh] overflow-y-auto border-y border-rule">
              {memo.lines.map((line, index) => (
                <li
                  key={index}
                  className="grid grid-cols-[1fr_auto] items-baseline gap-3 border-b border-rule py-1.5 last:border-0"
                >
                  <span className="font-serif text-sm">{line.text}</span>
                  <button
                    type="button"
                    className="cite"
                    data-hear
                    aria-label={t.spread.hear({ time: clock(line.start) })}
                    onClick={() => {
                      hear(line.lines[0]!, line.start);
                      close();
                    }}
                  >
                    {clock(line.start)}
                  </button>
                </li>
              ))}
            </ul>
          </>
        ) : (
          <div role="status">
            <Empty>{t.minutes.noneGathered}</Empty>
          </div>
        ))}
    </Leaf>
  );
}
