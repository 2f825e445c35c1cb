"""A rehearsal leaves nothing behind, and neither does a capture that never began."""

from __future__ import annotations

from datetime import timedelta

from django.utils import timezone

from server.accounts.models import Membership
from server.acting import acting
from server.capture.beside import throw_away
from server.capture.models import Capture
from server.meetings.models import Meeting, Place
from server.problems import Refused

_FORGOTTEN = timedelta(hours=1)


def discard_capture(membership: Membership, capture: Capture) -> None:
    """Delete a rehearsal of one's own with all that was captured of it, or a meeting of which nothing was. Raises Refused otherwise."""
    rehearsal = capture.meeting.place == Place.REHEARSAL
    if capture.meeting.created_by_id != membership.user_id or not rehearsal and capture.stretches.exists():
        raise Refused(409, "Only what was never on the record is thrown away. A meeting is struck or taken out of the library.")
    with acting(membership, None, "end rehearsal" if rehearsal else "discard capture"):
        throw_away(capture.meeting)


def discard_forgotten(membership: Membership) -> None:
    """Delete rehearsals of the member whose page died before it could."""
    before = timezone.now() - _FORGOTTEN
    for meeting in Meeting.objects.filter(place=Place.REHEARSAL, created_by=membership.user, created_at__lt=before):
        with acting(membership, None, "end rehearsal"):
            throw_away(meeting)
