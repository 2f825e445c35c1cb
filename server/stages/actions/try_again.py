"""Try work that failed again."""

from __future__ import annotations

from server.accounts.models import Membership
from server.acting import acting
from server.meetings.models import Meeting
from server.notify import Part
from server.pipeline.models import RunState, StageRun
from server.pipeline.work import queue, stages_of
from server.sharing.policy import Can


def try_again(membership: Membership, meeting: Meeting) -> None:
    """Queue the stage that failed once more; what was done before it stays done. Nothing happens where nothing failed."""
    with acting(membership, Can.CHANGE, "try again", meeting, tells=(Part.PROGRESS,)) as act:
        failed = StageRun.objects.select_for_update().filter(meeting=meeting, state=RunState.FAILED)
        names = set(failed.values_list("stage", flat=True))
        first = next((name for name in stages_of(meeting.recording) if name in names), None)
        if first is None:
            return act.nothing()
        failed.update(state=RunState.WAITING, progress=0.0, message="", attempts=0)
        queue(meeting, first)
        act.note(stage=first)
