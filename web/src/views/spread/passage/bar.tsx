import { useEffect, useState } from "react";
import { client, the, type Schemas } from "../../../api/client";
import { keys, useChange, useComments, useNotes } from "../../../api/hooks";
import { useKeys } from "../../../parts/keys";
import { Menu, MenuItem } from "../../../parts/menu";
import { useSay } from "../../../parts/sayings";
import { clock } from "../../../parts/time";
import { t } from "../../../texts";
import { useSpread } from "../context";
import { ActionLeaf } from "./jot";
import { CommentLeaf } from "./comment";
import { CutLeaf } from "./cut";
import { ofLine, selected, timed, type Passage } from "./passage";
import { StrikeLeaf } from "./strike";
import { may } from "../../../api/rights";

const JUST_SAID = 15; // seconds before the key: one presses it after the passage that it is about
type Open = "comment" | "action" | "excerpt" | "strike";
/** What can be done with the words that are selected in the record, or with the chosen line. */
export function PassageBar() {
  const { meeting, player, chosen, edit, recordPage: page, lines } = useSpread();
  const { all } = lines;
  const [picked, setPicked] = useState<Passage | null>(null);
  const [open, setOpen] = useState<{ what: Open; passage: Passage } | null>(null);
  const say = useSay();
  const notes = useNotes(meeting.id);
  const comments = useComments(meeting.id);
  const line = all.find((one) => one.number === chosen);
  const passage = picked ?? (line ? ofLine(line) : null);
  const at = { params: { path: { meeting_id: meeting.id } } };
  const unmark = useChange(
    (id: number) =>
      the(
        client.PATCH("/api/notes/marks/{mark_id}", {
          params: { path: { mark_id: id } },
          body: { removed: true },
        }),
      ),
    keys.notes(meeting.id),
  );
  const mark = useChange(async (kind: string) => {
    const listening = !picked && player && !player.audio.paused;
    if (!passage && !listening) throw new Error(t.passages.nothingChosen);
    const { start, end } = listening
      ? { start: Math.max(0, player.time - JUST_SAID), end: player.time }
      : await timed(meeting.id, passage!);
    return the(
      client.POST("/api/meetings/{meeting_id}/marks", { ...at, body: { kind, start, end } }),
    );
  }, keys.notes(meeting.id));
  const react = useChange(
    ({ kind, on }: { kind: Schemas["ReactionKind"]; on: boolean }) =>
      the(
        client.POST("/api/meetings/{meeting_id}/reactions", {
          ...at,
          body: { kind, on, start: passage!.start, end: passage!.end },
        }),
      ),
    keys.comments(meeting.id),
  );
  useEffect(() => {
    const look = () => {
      const now = selected(page, all);
      // What was selected stays chosen while a leaf or a field has the focus, and until something else in the record is pressed.
      if (now) setPicked(now);
      else if (page?.contains(getSelection()?.anchorNode ?? null)) setPicked(null);
    };
    document.addEventListener("selectionchange", look);
    const now = selected(page, all);
    if (now) setPicked(now); // while the record was still being laid out
    return () => document.removeEventListener("selectionchange", look);
  }, [page, all]);
  useEffect(() => setPicked((old) => (selected(page, all) ? old : null)), [chosen, page, all]);
  // What was wrong was wrong with another passage.
  const { reset: forget } = mark;
  const { reset: unsay } = react;
  useEffect(() => {
    forget();
    unsay();
  }, [chosen, picked, forget, unsay]);
  const kinds = notes.data?.kinds ?? [];
  const flag = (kind: string) =>
    mark.mutate(kind, {
      onSuccess: (made) =>
        say(t.passages.marked({ kind }), () => unmark.mutate(made.id), t.passages.unmark),
    });
  const start = async (what: Open) => {
    // A key may be faster than the news of a selection.
    const words = selected(page, all) ?? picked;
    const asked = words ?? passage;
    if (!asked || !may(meeting, "change")) return;
    // Of selected words their own times count and not their lines'.
    setOpen({ what, passage: words ? await timed(meeting.id, words) : asked });
  };
  // A key pressed before the kinds have arrived counts all the same.
  const flagFirst = async () => {
    const kind = kinds[0] ?? (await notes.refetch()).data?.kinds[0];
    if (kind) flag(kind);
  };
  useKeys({
    k: () => {
      if (may(meeting, "change")) void flagFirst();
    },
    n: () => void start("comment"),
    x: () => void start("excerpt"),
    d: () => void start("action"),
    S: () => void start("strike"),
  });
  const close = () => setOpen(null);
  const own = (kind: string) =>
    comments.data?.reactions.some(
      (one) =>
        one.kind === kind && one.mine && passage && Math.abs(one.start - passage.start) < 0.01,
    ) ?? false;
  const wrong = mark.error ?? react.error;
  return (
    <>
      {passage && may(meeting, "change") && (
        <div
          role="toolbar"
          aria-label={t.passages.bar}
          className="flex flex-wrap items-center gap-x-1 gap-y-1 border-t border-rule bg-wash px-5 py-1.5 text-sm sm:px-7"
        >
          <p
            className="min-w-0 grow basis-20 truncate font-serif text-faded italic"
            title={passage.text}
          >
            <span className="not-italic">
              {clock(passage.start) === clock(passage.end)
                ? clock(passage.start)
                : t.passages.chosen({ from: clock(passage.start), to: clock(passage.end) })}
            </span>{" "}
            {passage.text}
          </p>
          {wrong && (
            <span role="alert" className="text-clay">
              {wrong.message}
            </span>
          )}
          <Rows
            label={t.passages.mark}
            rows={kinds.map((kind) => [kind, kind, () => flag(kind)])}
          />
          <Rows
            label={t.passages.word}
            rows={(comments.data?.kinds ?? []).map((kind) => [
              kind,
              `${own(kind) ? "✓ " : ""}${t.passages.reactions[kind] ?? kind}`,
              () => react.mutate({ kind, on: !own(kind) }),
            ])}
          />
          {!picked && line && (
            <button type="button" className="plain" onClick={() => edit(line.number)}>
              {t.passages.correct}
            </button>
          )}
          {(["comment", "action", "excerpt", "strike"] as const).map((what) => (
            <button
              key={what}
              type="button"
              className={`plain ${what === "strike" ? "text-clay" : ""}`}
              onClick={() => void start(what)}
            >
              {t.passages[what]}
            </button>
          ))}
        </div>
      )}
      {open?.what === "comment" && (
        <CommentLeaf meeting={meeting} passage={open.passage} close={close} />
      )}
      {open?.what === "action" && (
        <ActionLeaf meeting={meeting} passage={open.passage} close={close} />
      )}
      {open?.what === "excerpt" && (
        <CutLeaf meeting={meeting} passage={open.passage} close={close} />
      )}
      {open?.what === "strike" && (
        <StrikeLeaf meeting={meeting} passage={open.passage} close={close} />
      )}
    </>
  );
}

function Rows({ label, rows }: { label: string; rows: [string, string, () => void][] }) {
  return (
    <Menu
      modal={false}
      side="top"
      gap={6}
      trigger={
        <button type="button" className="plain">
          {label}
        </button>
      }
    >
      {rows.map(([key, text, act]) => (
        <MenuItem key={key} onSelect={act}>
          {text}
        </MenuItem>
      ))}
    </Menu>
  );
}
