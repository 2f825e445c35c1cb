import { DropdownMenu } from "radix-ui";
import {
  useRef,
  useState,
  type FormEvent,
  type KeyboardEvent,
  type RefObject,
  useEffect,
} from "react";
import { useSearchParams } from "react-router";
import { client, Problem, the, type Schemas } from "../../api/client";
import { keys, useAgenda, useChange } from "../../api/hooks";
import { Glyph, type Kind } from "../../parts/glyph";
import { NARROW, useMedia } from "../../parts/media";
import { pointing } from "../../parts/pointing";
import { useSay } from "../../parts/sayings";
import { Empty, Wrong } from "../../parts/states";
import { clock, isPast, showDate } from "../../parts/time";
import { t } from "../../texts";
import { Agenda } from "../live/agenda";
import { Notes } from "../live/meanwhile";
import { Layout } from "./layout";
import { may } from "../../api/rights";

type MinutesLine = Schemas["MinutesLineOut"];
type Finding = Schemas["FindingOut"];
const GLYPHS: Record<string, Kind> = {
  decisions: "decision",
  actions: "action",
  questions: "question",
};

interface Props {
  meeting: Schemas["MeetingOut"];
  minutes: Schemas["MinutesOut"];
  lit: ReadonlySet<number>;
  point: (line: MinutesLine | Finding | null) => void;
  hear: (line: number, start: number) => void;
  go: (seconds: number) => void;
  now: () => number;
}

/** The minutes: each drawn line with the time it rests on, each line by hand with its writer's initials. */
export function MinutesPage({ meeting, minutes, lit, point, hear, go, now }: Props) {
  const agenda = useAgenda(meeting.id);
  const proposed = useRef<HTMLUListElement>(null);
  return (
    <div>
      <Layout meeting={meeting} minutes={minutes} hear={hear} />
      {minutes.sections.map(({ key, heading }) => {
        const lines = minutes.lines.filter((line) => line.section === key && !line.removed);
        return (
          <section key={key} aria-label={heading} className="when-seen pb-6">
            <h3 className="mb-1 flex items-center gap-2 border-b border-rule pb-1 text-base">
              {GLYPHS[key] && <Glyph kind={GLYPHS[key]} />}
              {heading}
            </h3>
            {lines.length ? (
              <ul>
                {lines.map((line, index) => (
                  <Written
                    key={line.id}
                    meeting={meeting}
                    line={line}
                    place={index}
                    sections={minutes.sections}
                    lit={lit.has(line.id)}
                    point={point}
                    hear={hear}
                  />
                ))}
              </ul>
            ) : (
              <Empty>{t.spread.none[key] ?? t.minutes.none}</Empty>
            )}
            {may(meeting, "change") && <NewLine meeting={meeting} section={key} />}
          </section>
        );
      })}
      {minutes.proposed.length > 0 && (
        <section aria-label={t.spread.proposed} className="when-seen pb-6">
          <h3 className="border-b border-rule pb-1 text-base">{t.spread.proposed}</h3>
          <p className="mt-1 text-sm text-faded">
            {t.spread.proposedHint}{" "}
            {may(meeting, "change") && <span className="max-sm:hidden">{t.minutes.keys}</span>}
          </p>
          <ul ref={proposed}>
            {minutes.proposed.map((finding) => (
              <Proposed
                key={finding.id}
                meeting={meeting}
                finding={finding}
                point={point}
                hear={hear}
                list={proposed}
              />
            ))}
          </ul>
        </section>
      )}
      {minutes.chapters.length > 0 && (
        <section aria-label={t.spread.chapters} className="when-seen pb-2">
          <h3 className="mb-1 border-b border-rule pb-1 text-base">{t.spread.chapters}</h3>
          <ol>
            {minutes.chapters.map((chapter) => (
              <li key={chapter.start}>
                <button
                  type="button"
                  onClick={() => go(chapter.start)}
                  className="grid w-full grid-cols-[3.2rem_1fr] items-baseline py-1 text-left hover:bg-wash"
                >
                  <span className="text-sm text-faded">{clock(chapter.start)}</span>
                  <span className="font-serif">{chapter.title}</span>
                </button>
              </li>
            ))}
          </ol>
        </section>
      )}
      <div className="mt-6 flex flex-col gap-6">
        {!!agenda.data?.length && <Agenda meeting={meeting} seconds={0} running={false} />}
        <Notes meeting={meeting} now={now} hear={go} />
      </div>
      <Index topics={minutes.topics} />
    </div>
  );
}

function Cite({ start, act }: { start: number; act: () => void }) {
  return (
    <button
      type="button"
      data-hear
      className="cite"
      aria-label={t.spread.hear({ time: clock(start) })}
      onClick={act}
    >
      {clock(start)}
    </button>
  );
}

function useMinutesChange<In>(
  meeting: Schemas["MeetingOut"],
  change: (input: In) => Promise<unknown>,
) {
  return useChange(change, keys.minutes(meeting.id), keys.today);
}

interface ToolsProps {
  line: MinutesLine;
  sections: Schemas["SectionOut"][];
  confirm: () => void;
  correct: () => void;
  move: (section: string, heading: string) => void;
  remove: () => void;
}
const item = "cursor-pointer px-3 py-1.5 outline-none data-highlighted:bg-wash";

/** What can be done with a line: words in the margin where something hovers, one press where a finger points. */
function LineTools(props: ToolsProps) {
  return useMedia(NARROW) ? <ToolsMenu {...props} /> : <ToolsRow {...props} />;
}

const confirmWord = (line: MinutesLine) =>
  line.confirmed ? t.minutes.unconfirm : t.minutes.confirm;

function ToolsMenu({ line, sections, confirm, correct, move, remove }: ToolsProps) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <button
          type="button"
          className="plain px-3 text-sm"
          aria-label={t.minutes.tools({ line: line.text })}
        >
          ⋯
        </button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" className="sheet z-40 min-w-52 py-1 shadow-lg">
          {!line.hand && (
            <DropdownMenu.Item className={item} onSelect={confirm}>
              {confirmWord(line)}
            </DropdownMenu.Item>
          )}
          <DropdownMenu.Item className={item} onSelect={correct}>
            {t.spread.correct}
          </DropdownMenu.Item>
          <DropdownMenu.Item className={item} onSelect={remove}>
            {t.spread.remove}
          </DropdownMenu.Item>
          <Sections line={line} sections={sections} move={move} />
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

function Sections({ line, sections, move }: Pick<ToolsProps, "line" | "sections" | "move">) {
  return (
    <>
      <DropdownMenu.Label className="px-3 py-1 text-xs text-faded">
        {t.minutes.moveTo}
      </DropdownMenu.Label>
      {sections
        .filter((one) => one.key !== line.section)
        .map((one) => (
          <DropdownMenu.Item
            key={one.key}
            className={item}
            onSelect={() => move(one.key, one.heading)}
          >
            {one.heading}
          </DropdownMenu.Item>
        ))}
    </>
  );
}

function ToolsRow({ line, sections, confirm, correct, move, remove }: ToolsProps) {
  const word = "plain text-xs";
  return (
    <span className="absolute right-12 -bottom-2 z-10 rounded-card border border-rule bg-paper px-1 whitespace-nowrap opacity-0 group-focus-within:opacity-100 group-hover:opacity-100 has-data-[state=open]:opacity-100">
      {!line.hand && (
        <button type="button" className={word} aria-pressed={!!line.confirmed} onClick={confirm}>
          {confirmWord(line)}
        </button>
      )}
      <button type="button" className={word} onClick={correct}>
        {t.spread.correct}
      </button>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger asChild>
          <button type="button" className={word}>
            {t.minutes.move}
          </button>
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content align="end" className="sheet z-40 min-w-44 py-1 text-sm shadow-lg">
            <Sections line={line} sections={sections} move={move} />
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <button type="button" className={word} onClick={remove}>
        {t.spread.remove}
      </button>
    </span>
  );
}

/** What keeps coming up, as an index at the end of a book: each word with how often, and a press looks for it in the record. */
function Index({ topics }: { topics: Schemas["TopicOut"][] }) {
  const [, setParams] = useSearchParams();
  if (!topics.length) return null;
  const look = (text: string) =>
    setParams(
      (old) => {
        old.set("find", text);
        return old;
      },
      { replace: true },
    );
  return (
    <section aria-labelledby="index" className="mt-8">
      <h2 id="index" className="mb-2 border-b border-rule pb-1 text-base">
        {t.minutes.topics}
      </h2>
      <ul className="columns-2 gap-x-8 text-sm">
        {topics.map((topic) => (
          <li key={topic.text}>
            <button
              type="button"
              className="plain flex w-full items-baseline justify-between gap-3 px-0 font-serif"
              aria-label={t.minutes.times({ text: topic.text, n: topic.count })}
              onClick={() => look(topic.text)}
            >
              {topic.text}
              <span className="font-sans text-xs text-faded">{topic.count}</span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}

interface WrittenProps {
  meeting: Schemas["MeetingOut"];
  line: MinutesLine;
  place: number;
  sections: Schemas["SectionOut"][];
  lit: boolean;
  point: Props["point"];
  hear: Props["hear"];
}

function Written({ meeting, line, place, sections, lit, point, hear }: WrittenProps) {
  const [text, setText] = useState<string | null>(null);
  // How the line read when its correction was begun, or when somebody else's was shown.
  const [before, setBefore] = useState(line.text);
  const say = useSay();
  const path = { params: { path: { line_id: line.id } } };
  const change = useMinutesChange(
    meeting,
    (body: {
      text?: string;
      before?: string;
      section?: string;
      position?: number;
      confirmed?: boolean;
    }) =>
      the(
        client.PATCH("/api/minutes/lines/{line_id}", {
          ...path,
          body: { position: 10_000, ...body },
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
  const move = (section: string, heading: string) =>
    change.mutate(
      { section },
      {
        onSuccess: () =>
          say(t.minutes.movedTo({ section: heading }), () =>
            change.mutate({ section: line.section, position: place }),
          ),
      },
    );
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
      {...pointing(
        () => point(line),
        () => point(null),
      )}
      className={`group relative grid grid-cols-[1.7rem_1fr_auto] items-baseline gap-x-2 rounded-[2px] py-1.5 ${lit ? "bg-glow" : "hover:bg-wash"}`}
    >
      <span className="text-center">
        {action ? (
          <button
            type="button"
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
      <span className={`font-serif leading-snug ${action?.done ? "text-faded" : ""}`}>
        {line.text}
        {action && hand && <span className="ml-2">{hand}</span>}
        {action?.due && (
          <span
            className={`ml-2 font-sans text-sm whitespace-nowrap ${!action.done && isPast(action.due) ? "text-clay" : "text-faded"}`}
          >
            {t.spread.due({ day: showDate(action.due) })}
          </span>
        )}
        {line.finding?.earlier.map((one) => (
          <span key={one.start} className="block text-sm text-faded">
            {t.minutes.instead} <s>{one.text}</s>{" "}
            <Cite start={one.start} act={() => hear(one.lines[0]!, one.start)} />
          </span>
        ))}
        {change.error && (
          <span role="alert" className="block text-sm text-clay">
            {change.error.message}
          </span>
        )}
        {may(meeting, "change") && (
          <LineTools
            line={line}
            sections={sections}
            confirm={() => change.mutate({ confirmed: !line.confirmed })}
            correct={correct}
            move={move}
            remove={() =>
              remove.mutate(undefined, {
                onSuccess: () => say(t.spread.removed, () => restore.mutate(undefined)),
              })
            }
          />
        )}
      </span>
      <span>
        {line.start !== null && line.lines[0] !== undefined && (
          <Cite start={line.start ?? 0} act={() => hear(line.lines[0]!, line.start!)} />
        )}
      </span>
    </li>
  );
}

function Proposed({
  meeting,
  finding,
  point,
  hear,
  list,
}: {
  meeting: Schemas["MeetingOut"];
  finding: Finding;
  point: Props["point"];
  hear: Props["hear"];
  list: RefObject<HTMLUListElement | null>;
}) {
  const say = useSay();
  const judge = useMinutesChange(meeting, (body: { confirmed?: boolean; dismissed?: boolean }) =>
    the(
      client.PATCH("/api/minutes/findings/{finding_id}", {
        params: { path: { finding_id: finding.id } },
        body,
      }),
    ),
  );
  const item = useRef<HTMLLIElement>(null);
  const step = (by: number) => {
    const items = [...(list.current?.children ?? [])] as HTMLElement[];
    (items[items.indexOf(item.current!) + by] ?? item.current)?.focus();
  };
  // What was answered leaves the list; whoever walks it goes on with the next.
  const yes = () => {
    step(item.current?.nextElementSibling ? 1 : -1);
    judge.mutate({ confirmed: true });
  };
  const no = () => {
    step(item.current?.nextElementSibling ? 1 : -1);
    judge.mutate(
      { dismissed: true },
      { onSuccess: () => say(t.spread.removed, () => judge.mutate({ dismissed: false })) },
    );
  };
  const press = (event: KeyboardEvent) => {
    if (event.target !== item.current || event.ctrlKey || event.altKey || event.metaKey) return;
    const act = {
      ArrowDown: () => step(1),
      ArrowUp: () => step(-1),
      " ": () => hear(finding.lines[0]!, finding.start),
      ...(may(meeting, "change") ? { y: yes, n: no } : {}),
    }[event.key];
    if (act) {
      event.preventDefault();
      event.stopPropagation();
      act();
    }
  };
  return (
    <li
      ref={item}
      tabIndex={0}
      aria-label={`${t.spread.kinds[finding.kind]}: ${finding.text}`}
      onKeyDown={press}
      {...pointing(
        () => point(finding),
        () => point(null),
      )}
      className="grid grid-cols-[1.7rem_1fr_auto] items-baseline gap-x-2 py-2 hover:bg-wash"
    >
      <span className="translate-y-0.5 text-center">
        <Glyph kind={finding.kind} />
        <span className="sr-only">{t.spread.kinds[finding.kind]}</span>
      </span>
      <span>
        <span className="font-serif italic leading-snug">{finding.text}</span>
        {may(meeting, "change") && (
          <span className="mt-1 flex gap-2">
            <button type="button" className="press px-2 py-0.5 text-sm" onClick={yes}>
              {t.spread.yes}
            </button>
            <button type="button" className="plain text-sm" onClick={no}>
              {t.spread.no}
            </button>
          </span>
        )}
      </span>
      <Cite start={finding.start} act={() => hear(finding.lines[0]!, finding.start)} />
    </li>
  );
}

function NewLine({ meeting, section }: { meeting: Schemas["MeetingOut"]; section: string }) {
  const [text, setText] = useState<string | null>(null);
  const add = useMinutesChange(meeting, (given: string) =>
    the(
      client.POST("/api/meetings/{meeting_id}/minutes/lines", {
        params: { path: { meeting_id: meeting.id } },
        body: { section, text: given, lines: [] },
      }),
    ),
  );
  if (text === null)
    return (
      <button type="button" className="plain ml-7 text-sm" onClick={() => setText("")}>
        {t.spread.write}
      </button>
    );
  return (
    <LineForm
      text={text}
      change={setText}
      error={add.error}
      close={() => setText(null)}
      keep={() => add.mutate(text, { onSuccess: () => setText(null) })}
    />
  );
}

function LineForm({
  text,
  change,
  keep,
  close,
  error,
}: {
  text: string;
  change: (text: string) => void;
  keep: () => void;
  close: () => void;
  error: Error | null;
}) {
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (text.trim()) keep();
  };
  return (
    <form onSubmit={submit} className="my-2 ml-7">
      <textarea
        aria-label={t.spread.write}
        autoFocus
        rows={2}
        className="field font-serif"
        value={text}
        onChange={(event) => change(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === "Escape") close();
          if (event.key === "Enter" && !event.shiftKey) submit(event);
        }}
      />
      <Wrong error={error} className="text-sm" />
      <div className="mt-1 flex gap-2">
        <button
          type="submit"
          disabled={!text.trim()}
          className="press press-main px-3 py-1 text-sm"
        >
          {t.spread.save}
        </button>
        <button type="button" className="plain text-sm" onClick={close}>
          {t.spread.cancel}
        </button>
      </div>
    </form>
  );
}
