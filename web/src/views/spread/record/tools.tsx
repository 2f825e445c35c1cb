import { useEffect, useRef, useState } from "react";
import { client, the, type Schemas } from "../../../api/client";
import { keys, useChange, useEdits } from "../../../api/hooks";
import { useKeys } from "../../../parts/keys";
import { Menu, MenuItem } from "../../../parts/menu";
import { useSay } from "../../../parts/sayings";
import { Wrong } from "../../../parts/states";
import { t } from "../../../texts";
import { Airtime } from "./airtime";
import { Changes } from "./changes";
import { KINDS, type Lens } from "./lens";
import type { Line } from "./lines";
import { useSpread } from "../context";
import { Outward } from "./outward";
import { Replace } from "./replace";
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
  // A key may be pressed before the list of changes has followed the record.
  const known = async () =>
    edits.isFetching ? (await edits.refetch({ cancelRefetch: false })).data : edits.data;
  const back = async () => {
    if (may(meeting, "change") && (await known())?.undo)
      undo.mutate(undefined, {
        onSuccess: () => say(t.record.undid, () => redo.mutate(undefined)),
      });
  };
  const again = async () => {
    if (may(meeting, "change") && (await known())?.redo)
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
    u: () => void back(),
    U: () => void again(),
  });
  useEffect(() => {
    if (find) setSearching(true);
  }, [find]);
  const close = () => setOpen(null);
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
      <Menu
        align="start"
        gap={6}
        trigger={
          <button type="button" aria-label={t.record.tools} className="press px-2 py-0.5">
            ⋯
          </button>
        }
      >
        {may(meeting, "change") && (
          <>
            <MenuItem onSelect={() => setOpen("replace")}>{t.record.replace}</MenuItem>
            <MenuItem disabled={!edits.data?.undo} onSelect={() => void back()}>
              {t.record.undo}
            </MenuItem>
            <MenuItem disabled={!edits.data?.redo} onSelect={() => void again()}>
              {t.record.redo}
            </MenuItem>
          </>
        )}
        <MenuItem onSelect={() => setOpen("changes")}>{t.record.changes}</MenuItem>
        <MenuItem onSelect={() => setOpen("away")}>{t.record.away}</MenuItem>
        <MenuItem onSelect={() => setOpen("airtime")}>{t.record.airtime}</MenuItem>
      </Menu>
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
