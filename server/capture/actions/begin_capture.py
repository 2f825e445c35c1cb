"""Begin to capture a meeting, or go on with one that was stopped."""

from __future__ import annotations

from uuid import UUID

from django.db import transaction

from server.accounts.models import Membership
from server.acting import acting
from server.capture.actions.discard import discard_forgotten
from server.capture.actions.take_upload import Given, create_meeting
from server.capture.models import Capture
from server.capture.queries import check_allowance
from server.meetings.models import Meeting
from server.notify import Part
from server.pipeline.models import StageRun
from server.problems import Refused
from server.sharing.policy import Can, require


def begin_capture(membership: Membership, capture_id: UUID, given: Given) -> Capture:
    """A new meeting with a capture of its own. The same id again gives the same capture: an answer that was lost costs nothing."""
    require(membership, Can.ADD)
    known = Capture.objects.filter(pk=capture_id).select_related("meeting").first()
    if known:
        if known.meeting.created_by_id != membership.user_id:
            raise Refused(409, "There is another capture of this id. Begin again.")
        return known
    check_allowance(membership)
    discard_forgotten(membership)
    with transaction.atomic():
        meeting = create_meeting(membership, given)
        with acting(membership, Can.ADD, "begin capture", meeting):
            return Capture.objects.create(pk=capture_id, meeting=meeting)


def go_on(membership: Membership, meeting: Meeting) -> Capture:
    """Open a stopped capture again: what follows is put behind what was captured before, and the whole is heard anew."""
    require(membership, Can.ADD, meeting)
    if not hasattr(meeting, "capture"):
        raise Refused(409, "This meeting was given as a file. Capture what follows as a meeting of its own.")
    if meeting.capture.participants.exists():
        raise Refused(409, "The clerk took this meeting in from a call. Send it there again, or capture what follows as a meeting of its own.")
    check_allowance(membership)
    with acting(membership, Can.ADD, "go on with capture", meeting, tells=(Part.CAPTURE, Part.PROGRESS)) as act:
        capture = Capture.objects.select_for_update().get(meeting=meeting)
        if capture.stopped_at is None:
            act.nothing()
            return capture
        capture.stopped_at = None
        capture.save(update_fields=["stopped_at"])
        StageRun.objects.filter(meeting=meeting).delete()
    return capture
