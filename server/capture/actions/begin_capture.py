"""Begin to capture a meeting, or go on with one that was stopped."""

from __future__ import annotations

from uuid import UUID

from django.db import transaction

from server.accounts.models import Membership
from server.audit.log import log
from server.capture.actions.discard_rehearsal import discard_forgotten
from server.capture.actions.take_upload import Given, create_meeting
from server.capture.models import Capture
from server.capture.queries import check_allowance
from server.events import tell
from server.meetings.models import Meeting
from server.pipeline.models import StageRun
from server.problems import Refused, not_allowed
from server.sharing.visibility import may_change


def begin_capture(membership: Membership, capture_id: UUID, given: Given) -> Capture:
    """A new meeting with a capture of its own. The same id again gives the same capture: an answer that was lost costs nothing."""
    if not membership.writes:
        raise not_allowed("Guests do not capture. Ask a member to.")
    known = Capture.objects.filter(pk=capture_id).select_related("meeting").first()
    if known:
        if known.meeting.created_by_id != membership.user_id:
            raise Refused(409, "There is another capture of this id. Begin again.")
        return known
    check_allowance(membership)
    discard_forgotten(membership)
    with transaction.atomic():
        meeting = create_meeting(membership, given)
        capture = Capture.objects.create(pk=capture_id, meeting=meeting)
        log(membership.workspace, membership.user, "begin capture", meeting)
    return capture


def go_on(membership: Membership, meeting: Meeting) -> Capture:
    """Open a stopped capture again: what follows is put behind what was captured before, and the whole is heard anew."""
    if not may_change(membership, meeting):
        raise not_allowed("Guests do not capture. Ask a member to.")
    if not hasattr(meeting, "capture"):
        raise Refused(409, "This meeting was given as a file. Capture what follows as a meeting of its own.")
    check_allowance(membership)
    with transaction.atomic():
        capture = Capture.objects.select_for_update().get(meeting=meeting)
        if capture.stopped_at is not None:
            capture.stopped_at = None
            capture.save(update_fields=["stopped_at"])
            StageRun.objects.filter(meeting=meeting).delete()
            log(membership.workspace, membership.user, "go on with capture", meeting)
            tell(meeting.pk, "capture", "progress")
    return capture
