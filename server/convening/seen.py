"""The caller and a meeting, where the visibility rule lets them meet."""

from __future__ import annotations

from uuid import UUID

from django.http import HttpRequest

from server.accounts.current import membership_of
from server.accounts.models import Membership
from server.meetings.models import Meeting
from server.problems import Refused
from server.sharing.visibility import visible_meetings


def seen(request: HttpRequest, meeting_id: UUID) -> tuple[Membership, Meeting]:
    """The caller and the meeting, when they may see it; else nothing is said of whether it exists."""
    membership = membership_of(request)
    meeting = visible_meetings(membership).filter(pk=meeting_id).select_related("recording", "capture", "series", "created_by").first()
    if meeting is None:
        raise Refused(404, "There is no such meeting, or it is not shared with you.")
    return membership, meeting
