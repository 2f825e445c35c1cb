import { client, the, type Schemas } from "../../../api/client";
import { may } from "../../../api/rights";
import { useTryAgain } from "../../../api/hooks";
import { useSay } from "../../../parts/sayings";
import { Wrong } from "../../../parts/states";
import { showLeft } from "../../../parts/time";
import { t } from "../../../texts";
import { useMinutesChange, useRestore } from "./changes";

interface Props {
  meeting: Schemas["MeetingOut"];
  changed: Schemas["ChangedOut"] | null;
  look: (version: number) => void;
}

/** What happens to the minutes by itself: what has changed since somebody looked, and what is still being worded. */
export function News({ meeting, changed, look }: Props) {
  return (
    <>
      {meeting.behind && <Behind meeting={meeting} behind={meeting.behind} />}
      {changed && <Changed meeting={meeting} changed={changed} look={look} />}
    </>
  );
}

function Changed({ meeting, changed, look }: Props & { changed: Schemas["ChangedOut"] }) {
  const say = useSay();
  const at = { params: { path: { meeting_id: meeting.id } } };
  const accept = useMinutesChange(meeting, () =>
    the(client.POST("/api/meetings/{meeting_id}/minutes/accept", at)),
  );
  const restore = useRestore(meeting);
  const back = async () => {
    const kept = await restore.mutateAsync(changed.since);
    say(t.minutes.wordedBackDone, () => restore.mutate(kept.number));
  };
  return (
    <p role="status" className="flex w-full flex-wrap items-center gap-x-3 bg-wash px-2 py-1">
      <span className="min-w-52 grow basis-0">
        {(changed.worded ? t.minutes.worded : t.minutes.changed)({ n: changed.lines })}
      </span>
      <button type="button" className="plain" onClick={() => look(changed.since)}>
        {t.minutes.lookAtChanges}
      </button>
      {may(meeting, "change") && (
        <>
          {changed.worded && (
            <button
              type="button"
              className="plain"
              disabled={restore.isPending}
              onClick={() => void back()}
            >
              {t.minutes.wordedBack}
            </button>
          )}
          <button
            type="button"
            className="plain"
            disabled={accept.isPending}
            onClick={() => accept.mutate(undefined)}
          >
            {t.minutes.accept}
          </button>
        </>
      )}
      <Wrong error={restore.error ?? accept.error} />
    </p>
  );
}

function Behind({
  meeting,
  behind,
}: {
  meeting: Schemas["MeetingOut"];
  behind: Schemas["WorkOut"];
}) {
  const again = useTryAgain(meeting.id);
  if (behind.state === "failed")
    return (
      <p role="alert" className="flex w-full flex-wrap items-center gap-x-3 px-2 py-1 text-clay">
        <span className="grow">{behind.message}</span>
        {may(meeting, "change") && (
          <button
            type="button"
            className="plain"
            disabled={again.isPending}
            onClick={() => again.mutate(undefined)}
          >
            {t.work.again}
          </button>
        )}
      </p>
    );
  return (
    <p role="status" className="w-full px-2 py-1 text-faded">
      {t.minutes.wording({ n: behind.percent, time: showLeft(behind.left ?? 0) })}
    </p>
  );
}
