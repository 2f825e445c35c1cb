import { DropdownMenu } from "radix-ui";
import { useEffect, useRef, useState } from "react";
import { client, the, type Schemas } from "../../../api/client";
import { keys, useChange, useEdits } from "../../../api/hooks";
import { Field } from "../../../parts/field";
import { useKeys } from "../../../parts/keys";
import { Leaf } from "../../../parts/leaf";
import { useSay } from "../../../parts/sayings";
import { Empty, Trouble, Wait, Wrong } from "../../../parts/states";
import { clock, showDay, showTime } from "../../../parts/time";
import { t } from "../../../texts";
import { Airtime } from "./airtime";
import { KINDS, type Lens } from "./lens";
import { has, type Line } from "./lines";
import { useSpread } from "../context";
import { Outward } from "./outward";
import { may } from "../../../api/rights";

interface Props {
  chapters: Schemas["ChapterOut"][];
  hits: Line[];
  lens: Lens;
  setLens: (lens: Lens) => void;
  /** How many lines the lens leaves; null: all. */
  left: number | null;
}

/** Beside the record's heading: find in it, replace, take back, see what was changed. */
export function RecordTools({ chapters, hits, lens, setLens, left }: Props) {
  const { meeting, player, find, setFind, chosen, choose } = useSpread();
  const [open, setOpen] = useState<"replace" | "changes" | "away" | "airtime" | null>(null);
  const [searching, setSearching] = useState(find !== "");
  const field = useRef<HTMLInputElement>(null);
  const say = useSay();
  const edits = useEdits(meeting.id);
  const at = { params: { path: { meeting_id: meeting.id } } };
  const stale = [
    keys.record(meeting.id),
    keys.edits(meeting.id),
    keys.meeting(meeting.id),
  ] as const;
  const undo = useChange(
    () => the(client.POST("/api/meetings/{meeting_id}/edits/undo", at)),
    ...stale,
  );
  const redo = useChange(
    () => the(client.POST("/api/meetings/{meeting_id}/edits/redo", at)),
    ...stale,
  );
  const place = hits.findIndex((line) => line.number === chosen);
  const walk = (by: number) => {
    const next =
      place >= 0
        ? place + by
        : by > 0
          ? hits.findIndex((line) => chosen === null || line.number > chosen)
          : hits.findLastIndex((line) => chosen === null || line.number < chosen);
    const line = hits[(next + hits.length) % Math.max(1, hits.length)];
    if (!line) return;
    player?.seek(line.start);
    choose(line.number);
  };
  const back = () => {
    if (may(meeting, "change") && edits.data?.undo)
      undo.mutate(undefined, {
        onSuccess: () => say(t.record.undid, () => redo.mutate(undefined)),
      });
  };
  const again = () => {
    if (may(meeting, "change") && edits.data?.redo)
      redo.mutate(undefined, {
        onSuccess: () => say(t.record.redid, () => undo.mutate(undefined)),
      });
  };
  useKeys({
    f: () => {
      setSearching(true);
      field.current?.focus();
    },
    "[": () => walk(-1),
    "]": () => walk(1),
    u: back,
    U: again,
  });
  useEffect(() => {
    if (find) setSearching(true);
  }, [find]);
  const close = () => setOpen(null);
  const item =
    "cursor-pointer px-4 py-1.5 outline-none data-highlighted:bg-wash data-disabled:opacity-50";
  const wrong = undo.error ?? redo.error;
  return (
    <div className="mb-4 flex flex-wrap items-center gap-2 text-sm">
      {searching ? (
        <form
          role="search"
          className="flex grow flex-wrap items-center gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            walk(1);
          }}
        >
          <input
            ref={field}
            autoFocus={!find}
            type="search"
            aria-label={t.record.find}
            className="field w-auto min-w-36 grow py-0.5"
            value={find}
            onChange={(event) => setFind(event.target.value)}
            onKeyDown={(event) => {
              if (event.key === "Escape") {
                setFind("");
                setSearching(false);
              }
            }}
          />
          {find && (
            <span role="status" className="text-faded">
              {place < 0
                ? t.record.found({ n: hits.length })
                : t.record.hits({ at: place + 1, of: hits.length })}
            </span>
          )}
          <button
            type="button"
            className="press px-2 py-0.5"
            aria-label={t.record.before}
            disabled={!hits.length}
            onClick={() => walk(-1)}
          >
            ↑
          </button>
          <button
            type="submit"
            className="press px-2 py-0.5"
            aria-label={t.record.next}
            disabled={!hits.length}
          >
            ↓
          </button>
          <button
            type="button"
            className="plain"
            onClick={() => {
              setFind("");
              setSearching(false);
            }}
          >
            {t.record.close}
          </button>
        </form>
      ) : (
        <button type="button" className="press px-2 py-0.5" onClick={() => setSearching(true)}>
          {t.record.find}
        </button>
      )}
      <DropdownMenu.Root>
        <DropdownMenu.Trigger asChild>
          <button type="button" aria-label={t.record.tools} className="press px-2 py-0.5">
            ⋯
          </button>
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="start"
            sideOffset={6}
            className="sheet z-40 min-w-48 py-1 shadow-lg"
          >
            {may(meeting, "change") && (
              <>
                <DropdownMenu.Item className={item} onSelect={() => setOpen("replace")}>
                  {t.record.replace}
                </DropdownMenu.Item>
                <DropdownMenu.Item className={item} disabled={!edits.data?.undo} onSelect={back}>
                  {t.record.undo}
                </DropdownMenu.Item>
                <DropdownMenu.Item className={item} disabled={!edits.data?.redo} onSelect={again}>
                  {t.record.redo}
                </DropdownMenu.Item>
              </>
            )}
            <DropdownMenu.Item className={item} onSelect={() => setOpen("changes")}>
              {t.record.changes}
            </DropdownMenu.Item>
            <DropdownMenu.Item className={item} onSelect={() => setOpen("away")}>
              {t.record.away}
            </DropdownMenu.Item>
            <DropdownMenu.Item className={item} onSelect={() => setOpen("airtime")}>
              {t.record.airtime}
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <label className="flex items-center gap-2 text-faded">
        {t.passages.lens}
        <select
          className="field w-auto max-w-48 py-0.5 text-ink"
          value={lens}
          onChange={(event) => setLens(event.target.value)}
        >
          {["all", ...KINDS].map((kind) => (
            <option key={kind} value={kind}>
              {t.passages.lenses[kind]}
            </option>
          ))}
          {meeting.voices.map((voice) => (
            <option key={voice.id} value={`voice:${voice.id}`}>
              {t.passages.ofVoice({ name: voice.name })}
            </option>
          ))}
          {meeting.people.map((person) => (
            <option key={person.id} value={`named:${person.name}`}>
              {t.passages.naming({ name: person.name })}
            </option>
          ))}
        </select>
      </label>
      {left !== null && (
        <span role="status" className="text-faded">
          {t.passages.through({ n: left })}
        </span>
      )}
      <Wrong error={wrong} className="w-full" />
      {open === "replace" && (
        <Replace meeting={meeting} start={find} close={close} undo={() => undo.mutate(undefined)} />
      )}
      {open === "changes" && <Changes meeting={meeting} close={close} />}
      {open === "away" && <Outward meeting={meeting} chapters={chapters} close={close} />}
      {open === "airtime" && <Airtime meeting={meeting} chapters={chapters} close={close} />}
    </div>
  );
}

const place = (line: number, at: number) => `${line}:${at}`;

function Replace({
  meeting,
  start,
  close,
  undo,
}: {
  meeting: Schemas["MeetingOut"];
  start: string;
  close: () => void;
  undo: () => void;
}) {
  const say = useSay();
  const [asked, setAsked] = useState({ text: start, by: "", whole_words: true, match_case: false });
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const at = { path: { meeting_id: meeting.id } };
  const look = useChange((given: typeof asked) =>
    the(
      client.GET("/api/meetings/{meeting_id}/find", {
        params: {
          ...at,
          query: { text: given.text, whole_words: given.whole_words, match_case: given.match_case },
        },
      }),
    ),
  );
  const put = useChange(
    (places: [number, number][]) =>
      the(
        client.POST("/api/meetings/{meeting_id}/replace", {
          params: at,
          body: { ...asked, places },
        }),
      ),
    keys.record(meeting.id),
    keys.edits(meeting.id),
    keys.meeting(meeting.id),
  );
  const set = (change: Partial<typeof asked>) => {
    setAsked({ ...asked, ...change });
    look.reset();
  };
  const found = look.data ?? [];
  const all = found.flatMap((line) =>
    line.at.map(([from]): [number, number] => [line.line, from!]),
  );
  const chosen = all.filter(([line, from]) => !left.has(place(line, from)));
  const flip = (one: string) => {
    const next = new Set(left);
    if (!next.delete(one)) next.add(one);
    setLeft(next);
  };
  const wrong = look.error ?? put.error;
  return (
    <Leaf title={t.record.replaceTitle} close={close}>
      <form
        className="mt-3 grid items-end gap-3 sm:grid-cols-2"
        onSubmit={(event) => {
          event.preventDefault();
          setLeft(new Set());
          look.mutate(asked);
        }}
      >
        <Field label={t.record.text} htmlFor="replace-text">
          <input
            id="replace-text"
            autoFocus
            required
            maxLength={200}
            className="field"
            value={asked.text}
            onChange={(event) => set({ text: event.target.value })}
          />
        </Field>
        <Field label={t.record.by} htmlFor="replace-by">
          <input
            id="replace-by"
            maxLength={200}
            className="field"
            value={asked.by}
            onChange={(event) => setAsked({ ...asked, by: event.target.value })}
          />
        </Field>
        <p className="flex flex-wrap gap-4 text-sm">
          {(["whole_words", "match_case"] as const).map((name) => (
            <label key={name} className="flex items-center gap-2">
              <input
                type="checkbox"
                className="accent-slate"
                checked={asked[name]}
                onChange={(event) => set({ [name]: event.target.checked })}
              />
              {name === "whole_words" ? t.record.whole : t.record.match_case}
            </label>
          ))}
        </p>
        <p className="text-right">
          <button
            type="submit"
            className={look.data ? "press" : "press press-main"}
            disabled={!asked.text.trim() || look.isPending}
          >
            {t.record.look}
          </button>
        </p>
      </form>
      <Wrong error={wrong} className="mt-2" />
      {look.data &&
        (all.length === 0 ? (
          <div role="status">
            <Empty>{t.record.nowhere({ text: asked.text })}</Empty>
          </div>
        ) : (
          <>
            <p role="status" className="mt-3 text-sm text-faded">
              {t.record.places({ n: all.length, lines: found.length })}
            </p>
            <ul tabIndex={0} className="mt-1 max-h-[45dvh] overflow-y-auto border-y border-rule">
              {found.flatMap((line) =>
                line.at.map(([from, to]) => {
                  const one = place(line.line, from!);
                  return (
                    <li key={one}>
                      <label className="grid grid-cols-[auto_3.2rem_1fr] items-baseline gap-2 border-b border-rule py-1 last:border-0">
                        <input
                          type="checkbox"
                          className="accent-slate"
                          checked={!left.has(one)}
                          onChange={() => flip(one)}
                        />
                        <span className="text-xs text-faded">{clock(line.start)}</span>
                        <span className="font-serif text-sm">
                          {line.text.slice(0, from)}
                          {left.has(one) ? (
                            line.text.slice(from, to)
                          ) : (
                            <>
                              <del className="text-clay">{line.text.slice(from, to)}</del>{" "}
                              <ins className="bg-glow no-underline">{asked.by}</ins>
                            </>
                          )}
                          {line.text.slice(to)}
                        </span>
                      </label>
                    </li>
                  );
                }),
              )}
            </ul>
            <p className="mt-4 flex gap-3">
              <button
                type="button"
                className="press press-main"
                disabled={!chosen.length || put.isPending}
                onClick={() =>
                  put.mutate(chosen, {
                    onSuccess: (made) => {
                      close();
                      say(t.record.replaced({ n: made.lines.length }), undo);
                    },
                  })
                }
              >
                {t.record.put({ n: chosen.length })}
              </button>
              <button type="button" className="plain" onClick={close}>
                {t.record.leave}
              </button>
            </p>
          </>
        ))}
    </Leaf>
  );
}

/** Who changed what in the record, and when. */
function Changes({ meeting, close }: { meeting: Schemas["MeetingOut"]; close: () => void }) {
  const edits = useEdits(meeting.id);
  return (
    <Leaf title={t.record.changesTitle} close={close}>
      {edits.isPending && <Wait />}
      {edits.error && <Trouble error={edits.error} />}
      {edits.data?.edits.length === 0 && <Empty>{t.record.noChanges}</Empty>}
      <ul tabIndex={0} className="mt-3 max-h-[70dvh] overflow-y-auto">
        {edits.data?.edits.map((edit) => (
          <li
            key={edit.number}
            className={`border-b border-rule py-2 ${edit.undone ? "text-faded" : ""}`}
          >
            <p className="text-sm">
              <span className="font-semibold">{edit.by}</span> {t.record.kinds[edit.kind]}
              {edit.turns > 0 && ` (${t.record.turns({ n: edit.turns })})`}{" "}
              <span className="text-faded">
                {showDay(edit.at)}, {showTime(edit.at)}
                {edit.undone && ` · ${t.record.undone}`}
              </span>
            </p>
            {edit.lines.map((line) => (
              <p key={line.line} className="mt-1 font-serif text-sm">
                <del className="text-clay">{line.before}</del>
                <br />
                <ins className="no-underline">{line.after}</ins>
              </p>
            ))}
          </li>
        ))}
      </ul>
    </Leaf>
  );
}

/** The lines in which a search finds something. */
export function hitsOf(all: Line[], find: string): Line[] {
  const wanted = find.trim();
  return wanted ? all.filter((line) => has(line.text, wanted)) : [];
}
