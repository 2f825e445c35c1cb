"""Take a meeting out of the library, and put it back."""

from django.db import transaction
from django.utils import timezone

from server.accounts.models import Membership
from server.audit.log import log
from server.meetings.models import Meeting
from server.problems import not_allowed
from server.sharing.visibility import may_govern


def remove_meeting(membership: Membership, meeting: Meeting) -> None:
    """Out of every list, search and page; nothing is deleted, and `restore_meeting` brings it back."""
    _set(membership, meeting, timezone.now(), "remove meeting")


def restore_meeting(membership: Membership, meeting: Meeting) -> None:
    """Back where it was."""
    _set(membership, meeting, None, "restore meeting")


def _set(membership: Membership, meeting: Meeting, moment, verb: str) -> None:
    if not may_govern(membership, meeting):
        raise not_allowed("A meeting is taken out by whoever gave it, or by an admin.")
    with transaction.atomic():
        Meeting.objects.filter(pk=meeting.pk).update(removed_at=moment)
        log(membership.workspace, membership.user, verb, meeting)
