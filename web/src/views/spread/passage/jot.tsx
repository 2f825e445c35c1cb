import { useState } from "react";
import { client, the, type Schemas } from "../../../api/client";
import { keys, useChange } from "../../../api/hooks";
import { Field } from "../../../parts/field";
import { Foot, Leaf } from "../../../parts/leaf";
import { useSay } from "../../../parts/sayings";
import { t } from "../../../texts";
import type { Passage } from "./passage";
import { Wrong } from "../../../parts/states";

/** An action in one's own words, with the lines of the passage as its evidence. */
export function ActionLeaf({
  meeting,
  passage,
  close,
}: {
  meeting: Schemas["MeetingOut"];
  passage: Passage;
  close: () => void;
}) {
  const say = useSay();
  const [text, setText] = useState("");
  const [owner, setOwner] = useState("");
  const [due, setDue] = useState("");
  const lines = Array.from(
    { length: passage.last[0] - passage.first[0] + 1 },
    (_, index) => passage.first[0] + index,
  );
  const put = useChange(
    () =>
      the(
        client.POST("/api/meetings/{meeting_id}/actions", {
          params: { path: { meeting_id: meeting.id } },
          body: { text, owner, due: due || null, at: passage.start, lines },
        }),
      ),
    keys.minutes(meeting.id),
    keys.today,
  );
  return (
    <Leaf title={t.passages.actionTitle} close={close}>
      <p className="mt-2 max-h-28 overflow-y-auto font-serif text-sm text-faded italic">
        {passage.text}
      </p>
      <form
        className="mt-3 grid gap-3 sm:grid-cols-2"
        onSubmit={(event) => {
          event.preventDefault();
          put.mutate(undefined, {
            onSuccess: () => {
              close();
              say(t.passages.acted);
            },
          });
        }}
      >
        <div className="sm:col-span-2">
          <Field label={t.passages.what} htmlFor="jot-what">
            <input
              id="jot-what"
              autoFocus
              maxLength={1000}
              className="field"
              value={text}
              onChange={(event) => setText(event.target.value)}
            />
          </Field>
        </div>
        <Field label={t.passages.owner} htmlFor="jot-owner">
          <select
            id="jot-owner"
            className="field"
            value={owner}
            onChange={(event) => setOwner(event.target.value)}
          >
            <option value="">{t.passages.noOwner}</option>
            {meeting.people.map((one) => (
              <option key={one.id}>{one.name}</option>
            ))}
          </select>
        </Field>
        <Field label={t.passages.due} htmlFor="jot-due">
          <input
            id="jot-due"
            type="date"
            className="field"
            value={due}
            onChange={(event) => setDue(event.target.value)}
          />
        </Field>
        <Wrong error={put.error} className="sm:col-span-2" />
        <Foot
          className="flex gap-3 sm:col-span-2"
          act={t.passages.put}
          off={!text.trim() || put.isPending}
          close={close}
        />
      </form>
    </Leaf>
  );
}
