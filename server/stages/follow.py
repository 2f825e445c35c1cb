"""Follow: what the meeting makes goes into the ledger, with what it says of matters of the earlier meetings of its series."""

from __future__ import annotations

from collections.abc import Sequence

from server.capture.models import Recording
from server.ledger.follow import Came, keep_steps, read_on
from server.meetings.models import Meeting
from server.notify import Part
from server.pipeline.ear import encoder
from server.pipeline.models import RunState
from server.pipeline.work import Change, Queue, Report, Stage, begin


def _follow(meeting: Meeting, report: Report) -> list[Came]:
    return read_on(meeting, encoder())


def _keep(meeting: Meeting, came: Sequence[Came]) -> None:
    keep_steps(meeting, came)
    _next_in_series(meeting)


def _next_in_series(meeting: Meeting) -> None:
    """A meeting that is given late comes before others: what these say of what it made is looked for now."""
    if meeting.series_id is None:
        return
    later = Meeting.objects.filter(series=meeting.series_id, started_at__gt=meeting.started_at, removed_at=None, going_at=None)
    following = later.filter(stage_runs__stage=STAGE.name, stage_runs__state=RunState.DONE).order_by("started_at", "pk").first()
    if following:
        begin(following, [STAGE.name])


STAGE = Stage(
    "follow",
    "following what was settled",
    "series-1",
    Queue.READING,
    _follow,
    _keep,
    rate=0.002,
    forms=frozenset(Recording.Form),
    new=(Part.LEDGER,),
    again=frozenset(Change),
    behind=True,
)
