"""The one rule of who sees what. Every read of a meeting or of anything in one starts here."""

from __future__ import annotations

from django.db.models import Exists, OuterRef, Q, QuerySet

from server.accounts.models import Membership, Role
from server.meetings.models import Attendee, Meeting, Place, Visibility


def visible_meetings(membership: Membership, *, removed: bool = False) -> QuerySet[Meeting]:
    """The meetings a member may see: their own; those of people who were there, when they were; the workspace's.

    A guest sees only meetings at which they were present and that are not somebody's own.
    removed: those taken out of the library (and still to be had back) instead of those in it.
    """
    was_there = Exists(Attendee.objects.filter(meeting=OuterRef("pk"), person__user=membership.user_id))
    rule = Q(created_by=membership.user_id) | Q(was_there, visibility__in=[Visibility.PRESENT, Visibility.WORKSPACE])
    if membership.role != Role.GUEST:
        rule |= Q(visibility=Visibility.WORKSPACE)
    return Meeting.objects.filter(rule, workspace=membership.workspace_id, removed_at__isnull=not removed)


def listed_meetings(membership: Membership) -> QuerySet[Meeting]:
    """Those of the visible meetings that stand in lists and searches: all but rehearsals."""
    return visible_meetings(membership).exclude(place=Place.REHEARSAL)


def may_change(membership: Membership, meeting: Meeting) -> bool:
    """May they change a meeting that they see: its record, minutes, people?"""
    return membership.writes


def may_govern(membership: Membership, meeting: Meeting) -> bool:
    """May they set who sees it, and take it out: whoever made it, and those who run the workspace."""
    return membership.writes and (meeting.created_by_id == membership.user_id or membership.manages)
