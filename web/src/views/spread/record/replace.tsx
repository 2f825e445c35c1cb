import { useState } from "react";
import { client, the, type Schemas } from "../../../api/client";
import { keys, useChange } from "../../../api/hooks";
import { Field } from "../../../parts/field";
import { Leaf } from "../../../parts/leaf";
import { useSay } from "../../../parts/sayings";
import { Empty, Wrong } from "../../../parts/states";
import { clock } from "../../../parts/time";
import { t } from "../../../texts";

const place = (line: number, at: number) => `${line}:${at}`;

/** Replace a text wherever it stands, each place seen before. */
export function Replace({
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
