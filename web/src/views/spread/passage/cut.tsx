import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { client, failed, the, type Schemas } from "../../../api/client";
import { keys, useChange } from "../../../api/hooks";
import { Field } from "../../../parts/field";
import { Leaf } from "../../../parts/leaf";
import { useSay } from "../../../parts/sayings";
import { Trouble, Wait, Wrong } from "../../../parts/states";
import { clock } from "../../../parts/time";
import { t } from "../../../texts";
import { askWords, type Passage } from "./passage";

const AROUND = 15; // seconds on either side of a passage: about half a minute in all (common practice)
const MARGIN = 45; // seconds further that it can be made longer by
type Word = [text: string, start: number, end: number];

/** Cut an excerpt: about half a minute around the passage, or as many words as were selected, trimmed word by word. */
export function CutLeaf({
  meeting,
  passage,
  close,
}: {
  meeting: Schemas["MeetingOut"];
  passage: Passage;
  close: () => void;
}) {
  const words = useQuery({
    queryKey: [...keys.record(meeting.id), "words", passage.start, passage.end],
    queryFn: () =>
      askWords(meeting.id, passage.start - AROUND - MARGIN, passage.end + AROUND + MARGIN),
  });
  return (
    <Leaf title={t.passages.excerptTitle} hint={t.passages.excerptHint} wide close={close}>
      {words.isPending ? (
        <Wait />
      ) : failed(words) ? (
        <Trouble error={words.error} />
      ) : (
        <Trim
          meeting={meeting}
          passage={passage}
          words={words.data.flatMap((line) => line.words)}
          close={close}
        />
      )}
    </Leaf>
  );
}

function Trim({
  meeting,
  passage,
  words,
  close,
}: {
  meeting: Schemas["MeetingOut"];
  passage: Passage;
  words: Word[];
  close: () => void;
}) {
  const say = useSay();
  const to = useNavigate();
  const whole = passage.last[1] === -1;
  const [title, setTitle] = useState(
    passage.text
      .split(" ")
      .slice(0, 8)
      .join(" ")
      .replace(/[.,;:!?]+$/u, ""),
  );
  const [first, setFirst] = useState(() =>
    Math.max(
      0,
      words.findIndex(
        ([, , end]) =>
          end > (whole ? (passage.start + passage.end) / 2 - AROUND : passage.start + 0.01),
      ),
    ),
  );
  const [last, setLast] = useState(() =>
    Math.max(
      0,
      words.findLastIndex(
        ([, start]) =>
          start < (whole ? (passage.start + passage.end) / 2 + AROUND : passage.end - 0.01),
      ),
    ),
  );
  const [start, end] = [words[first]?.[1] ?? 0, words[last]?.[2] ?? 0];
  const cut = useChange(
    () =>
      the(
        client.POST("/api/meetings/{meeting_id}/excerpts", {
          params: { path: { meeting_id: meeting.id } },
          body: { title, start, end, at: null },
        }),
      ),
    keys.excerpts,
  );
  const range = (id: string, value: number, set: (to: number) => void, label: string) => (
    <Field label={label} htmlFor={id}>
      <input
        id={id}
        type="range"
        className="w-full accent-slate"
        min={0}
        max={words.length - 1}
        value={value}
        aria-valuetext={words[value]?.[0] ?? ""}
        onChange={(event) => set(Number(event.target.value))}
      />
    </Field>
  );
  return (
    <form
      className="mt-2"
      onSubmit={(event) => {
        event.preventDefault();
        cut.mutate(undefined, {
          onSuccess: (made) => {
            close();
            say(t.passages.cutDone);
            void to(`/excerpts/${made.id}`);
          },
        });
      }}
    >
      <Field label={t.passages.title} htmlFor="cut-title">
        <input
          id="cut-title"
          autoFocus
          maxLength={200}
          className="field"
          value={title}
          onChange={(event) => setTitle(event.target.value)}
        />
      </Field>
      <p
        tabIndex={0}
        className="mt-3 max-h-48 overflow-y-auto border-y border-rule py-2 font-serif leading-relaxed"
      >
        {words.map(([text], index) => (
          <span key={index} className={index >= first && index <= last ? "bg-glow" : "text-faded"}>
            {text}{" "}
          </span>
        ))}
      </p>
      <div className="mt-3 grid gap-3 sm:grid-cols-2">
        {range(
          "cut-first",
          first,
          (at) => {
            setFirst(at);
            setLast(Math.max(at, last));
          },
          `${t.passages.begins} “${words[first]?.[0] ?? ""}”`,
        )}
        {range(
          "cut-last",
          last,
          (at) => {
            setLast(at);
            setFirst(Math.min(at, first));
          },
          `${t.passages.ends} “${words[last]?.[0] ?? ""}”`,
        )}
      </div>
      <Wrong error={cut.error} className="mt-2" />
      <p className="mt-4 flex items-baseline gap-3">
        <button
          type="submit"
          className="press press-main"
          disabled={cut.isPending || !words.length}
        >
          {t.passages.cut}
        </button>
        <button type="button" className="plain" onClick={close}>
          {t.record.leave}
        </button>
        <span className="text-sm text-faded">
          {t.passages.length({ time: clock(end - start) })}
        </span>
      </p>
    </form>
  );
}
