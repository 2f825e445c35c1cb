import { useEffect, useState } from "react";
import { client, Problem, the, type Schemas } from "../../../api/client";
import { may } from "../../../api/rights";
import { Glyph } from "../../../parts/glyph";
import { pointing } from "../../../parts/pointing";
import { useSay } from "../../../parts/sayings";
import type { Walked } from "../../../parts/walked";
import { t } from "../../../texts";
import { useSpread } from "../context";
import type { Pointed } from "../pointed";
import { Agreed } from "./agreed";
import { useMinutesChange, type MinutesLine } from "./changes";
import { Cite } from "./cite";
import { LineForm } from "./form";
import { useDragged, type Place } from "./order";
import { LineTools } from "./tools";

interface Props {
  line: MinutesLine;
  /** Which of its section it is, and of how many. */
  place: number;
  count: number;
  move: (to: Place, said: string) => void;
  sections: Schemas["SectionOut"][];
  pointed: Pointed;
  walked: Walked;
}

/** A line of the minutes, and what can be done with it. */
export function Written({ line, place, count, move, sections, pointed, walked }: Props) {
  const { meeting, hear } = useSpread();
  const name = `line ${line.id}`;
  const tab = walked.inner(name);
  const [text, setText] = useState<string | null>(null);
  // How the line read when its correction was begun, or when somebody else's was shown.
  const [before, setBefore] = useState(line.text);
  const say = useSay();
  const path = { params: { path: { line_id: line.id } } };
  const change = useMinutesChange(
    meeting,
    (body: { text?: string; before?: string; confirmed?: boolean }) =>
      the(
        client.PATCH("/api/minutes/lines/{line_id}", {
          ...path,
          body: { position: 0, ...body },
        }),
      ),
  );
  const remove = useMinutesChange(meeting, () =>
    the(client.DELETE("/api/minutes/lines/{line_id}", path)),
  );
  const restore = useMinutesChange(meeting, () =>
    the(client.POST("/api/minutes/lines/{line_id}/restore", path)),
  );
  const judge = useMinutesChange(meeting, (done: boolean) =>
    the(
      client.PATCH("/api/minutes/findings/{finding_id}", {
        params: { path: { finding_id: line.finding!.id } },
        body: { done },
      }),
    ),
  );
  const correct = () => {
    setText(line.text);
    setBefore(line.text);
  };
  useEffect(() => {
    // What somebody else has made of it stands in the message; to keep one's own after that is meant.
    const theirs = change.error instanceof Problem ? change.error.facts.text : undefined;
    if (typeof theirs === "string") setBefore(theirs);
  }, [change.error]);
  const first = line.lines[0];
  const hearIt =
    line.start !== null && first !== undefined ? () => hear(first, line.start!) : undefined;
  const action = line.finding?.kind === "action" ? line.finding : null;
  const hand = line.hand ? (
    <abbr
      title={t.spread.inHand({ name: line.hand_name ?? line.hand })}
      className="font-serif text-xs text-faded italic no-underline"
    >
      {line.hand}
    </abbr>
  ) : line.confirmed ? (
    <abbr
      title={t.minutes.confirmed({ initials: line.confirmed })}
      className="font-serif text-xs text-lichen italic no-underline"
    >
      ✓{line.confirmed}
    </abbr>
  ) : null;
  const dragged = useDragged(line, !may(meeting, "change"));
  const shift = (by: number) => {
    const position = place + by;
    if (position >= 0 && position < count)
      move({ section: line.section, position }, t.minutes.movedHere);
  };
  if (text !== null)
    return (
      <li>
        <LineForm
          text={text}
          change={setText}
          error={change.error}
          close={() => setText(null)}
          keep={() => change.mutate({ text, before }, { onSuccess: () => setText(null) })}
        />
      </li>
    );
  return (
    <li
      data-minutes={line.id}
      ref={dragged.row}
      style={dragged.style}
      {...walked.item(name)}
      onKeyDown={(event) => {
        if (event.target !== event.currentTarget) return;
        if (event.key === "Enter") hearIt?.();
        const by = { ArrowDown: 1, ArrowUp: -1 }[event.key];
        if (!by || !event.altKey || !may(meeting, "change")) return;
        event.preventDefault();
        shift(by);
      }}
      {...pointing(
        () => pointed.row(line),
        () => pointed.row(null),
      )}
      className={`group relative grid grid-cols-[1.7rem_1fr_auto] items-baseline gap-x-2 rounded-[2px] py-1.5 ${pointed.litRows.has(line.id) ? "bg-glow" : "hover:bg-wash"}`}
    >
      <span className="text-center">
        {action ? (
          <button
            type="button"
            tabIndex={tab}
            disabled={!may(meeting, "change")}
            aria-pressed={action.done}
            aria-label={
              action.done
                ? t.spread.doneMark({ text: line.text })
                : t.spread.openMark({ text: line.text })
            }
            onClick={() => judge.mutate(!action.done)}
            className="translate-y-0.5"
          >
            <Glyph kind={action.done ? "done" : "action"} />
          </button>
        ) : (
          hand
        )}
      </span>
      <span
        lang={meeting.language.slice(0, 2) || undefined}
        className={`font-serif leading-snug ${action?.done ? "text-faded" : ""}`}
      >
        {line.text}
        {action && hand && <span className="ml-2">{hand}</span>}
        {action && <Agreed line={line} action={action} tab={tab} />}
        {line.finding?.earlier.map((one) => (
          <span key={one.start} className="block text-sm text-faded">
            {t.minutes.instead} <s>{one.text}</s>{" "}
            <Cite start={one.start} act={() => hear(one.lines[0]!, one.start)} tab={tab} />
          </span>
        ))}
        {change.error && (
          <span role="alert" className="block text-sm text-clay">
            {change.error.message}
          </span>
        )}
      </span>
      <span className="flex items-baseline">
        {dragged.handle}
        {hearIt && <Cite start={line.start ?? 0} act={hearIt} tab={tab} />}
        {may(meeting, "change") && (
          <LineTools
            line={line}
            tab={tab}
            sections={sections}
            confirm={() => change.mutate({ confirmed: !line.confirmed })}
            correct={correct}
            up={place > 0 ? () => shift(-1) : null}
            down={place < count - 1 ? () => shift(1) : null}
            move={(section, heading) =>
              move({ section, position: 10_000 }, t.minutes.movedTo({ section: heading }))
            }
            remove={() =>
              remove.mutate(undefined, {
                onSuccess: () => say(t.spread.removed, () => restore.mutate(undefined)),
              })
            }
          />
        )}
      </span>
    </li>
  );
}
