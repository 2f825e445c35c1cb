import { Link } from "react-router";
import { client, Problem, the, type Schemas } from "../../api/client";
import { keys, useChange, useNeighbours, useTryAgain } from "../../api/hooks";
import { may } from "../../api/rights";
import { engine } from "../../capture/engine";
import { RATE } from "../../capture/keep";
import { WorkProgress } from "../../parts/progress";
import { showDay, showLength, showLongDay, showTime } from "../../parts/time";
import { t } from "../../texts";
import { refusal } from "../capture/capture";

/** What meeting it is, when it was, who sees it. */
export function Head({ meeting }: { meeting: Schemas["MeetingOut"] }) {
  return (
    <header className="flex flex-wrap items-baseline gap-x-5 gap-y-1">
      <h1 className="min-w-0 text-xl sm:text-2xl">{meeting.title}</h1>
      <p className="text-sm text-faded">
        {showLongDay(meeting.started_at)}, {showTime(meeting.started_at)}
        {meeting.duration > 0 && ` · ${showLength(meeting.duration)}`}
      </p>
      {meeting.series && <InSeries meeting={meeting} />}
      <span className="grow" />
      <p className="flex flex-wrap items-center gap-x-4 text-sm">
        {meeting.voices.length > 0 && meeting.recording?.playable && (
          <Link to={`/meetings/${meeting.id}/review`} className="cite">
            {t.review.open}
          </Link>
        )}
        {meeting.capture && !meeting.call && may(meeting, "change") && <GoOn meeting={meeting} />}
        <Link to={`/meetings/${meeting.id}/settings`} className="cite">
          {t.spread.seenBy({ who: meeting.visibility })}
        </Link>
      </p>
    </header>
  );
}

/** The series it belongs to, and the meetings of that before and after it. */
function InSeries({ meeting }: { meeting: Schemas["MeetingOut"] }) {
  const beside = useNeighbours(meeting.id, true).data;
  const to = (one: Schemas["NeighbourOut"] | null | undefined, way: "before" | "after") =>
    one && (
      <Link
        to={`/meetings/${one.id}`}
        className="plain px-1"
        aria-label={t.library[way]({ title: one.title, day: showDay(one.started_at) })}
        title={t.library[way]({ title: one.title, day: showDay(one.started_at) })}
      >
        {way === "before" ? "‹" : "›"}
      </Link>
    );
  return (
    <p className="flex items-baseline gap-1 text-sm">
      {to(beside?.before, "before")}
      {beside?.series ? (
        <Link to={`/series/${beside.series.id}`} className="cite">
          {beside.series.name}
        </Link>
      ) : (
        <span className="text-faded">{meeting.series}</span>
      )}
      {to(beside?.after, "after")}
    </p>
  );
}

/** Capture what follows, as part of the same meeting. */
function GoOn({ meeting }: { meeting: Schemas["MeetingOut"] }) {
  const again = useChange(async () => {
    const begun = await the(
      client.POST("/api/meetings/{meeting_id}/capture", {
        params: { path: { meeting_id: meeting.id } },
      }),
    );
    const known = await the(
      client.GET("/api/captures/{capture_id}", { params: { path: { capture_id: begun.id } } }),
    );
    await engine.begin(
      { ...begun, title: meeting.title },
      { microphone: localStorage.getItem("microphone") ?? "", beside: "nothing" },
      {
        id: begun.id,
        meeting: meeting.id,
        title: meeting.title,
        tracks: ["room"],
        before: Math.round(known.seconds * RATE),
        lengths: known.stretches.map(() => 0),
        chunks: 0,
        open: false,
        stopped: false,
      },
    );
  }, keys.meeting(meeting.id));
  return (
    <>
      {again.error && (
        <span role="alert" className="text-clay">
          {again.error instanceof Problem ? again.error.message : refusal(again.error.name)}
        </span>
      )}
      <button
        type="button"
        className="cite"
        disabled={again.isPending}
        onClick={() => again.mutate(undefined)}
      >
        {t.capture.later}
      </button>
    </>
  );
}

/** A meeting while it is being worked on, or when that failed. */
export function Working({ meeting }: { meeting: Schemas["MeetingOut"] }) {
  const again = useTryAgain(meeting.id);
  return (
    <div className="sheet mt-6 max-w-2xl p-6">
      {meeting.work.state === "failed" ? (
        <div role="alert">
          <h2 className="text-lg text-clay">{t.work.failed}</h2>
          <p className="mt-2">{meeting.work.message}</p>
          {may(meeting, "change") && (
            <button
              type="button"
              className="press press-main mt-4"
              disabled={again.isPending}
              onClick={() => again.mutate(undefined)}
            >
              {t.work.again}
            </button>
          )}
        </div>
      ) : (
        <>
          <WorkProgress work={meeting.work} />
          <p className="mt-4 text-faded">{t.work.leave}</p>
        </>
      )}
      {meeting.recording && (
        <p className="mt-4 text-sm break-all text-faded">{meeting.recording.name}</p>
      )}
    </div>
  );
}
