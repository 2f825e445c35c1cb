"""Take a meeting out of the library, and put it back."""

from __future__ import annotations

from django.utils import timezone

from server.accounts.models import Membership
from server.acting import acting
from server.meetings.models import Meeting
from server.notify import Part
from server.sharing.policy import Can


def remove_meeting(membership: Membership, meeting: Meeting) -> None:
    """Out of every list, search and page; `restore_meeting` brings it back for as long as the workspace keeps what was taken out."""
    with acting(membership, Can.GOVERN, "remove meeting", meeting, tells=(Part.MEETING,)):
        Meeting.objects.filter(pk=meeting.pk).update(removed_at=timezone.now(), removed_by=membership.user)


def restore_meeting(membership: Membership, meeting: Meeting) -> None:
    """Back where it was."""
    with acting(membership, Can.GOVERN, "restore meeting", meeting, tells=(Part.MEETING,)):
        Meeting.objects.filter(pk=meeting.pk).update(removed_at=None, removed_by=None)
