"""Try work that failed again."""

from __future__ import annotations

from django.db import transaction

from server.accounts.models import Membership
from server.audit.log import log
from server.meetings.models import Meeting
from server.pipeline.models import StageRun
from server.pipeline.stages import stages_of
from server.pipeline.tasks import queue
from server.problems import not_allowed
from server.sharing.visibility import may_change


def try_again(membership: Membership, meeting: Meeting) -> None:
    """Queue the stage that failed once more; what was done before it stays done. Nothing happens where nothing failed."""
    if not may_change(membership, meeting):
        raise not_allowed("Guests cannot start work. Ask a member.")
    with transaction.atomic():
        failed = StageRun.objects.select_for_update().filter(meeting=meeting, state=StageRun.State.FAILED)
        names = set(failed.values_list("stage", flat=True))
        first = next((name for name in stages_of(meeting.recording) if name in names), None)
        if first:
            failed.update(state=StageRun.State.WAITING, progress=0.0, message="")
            queue(meeting, first)
            log(membership.workspace, membership.user, "try again", meeting, stage=first)
