"""Reads over many meetings. Each starts from the visibility rule."""

from __future__ import annotations

from datetime import datetime, timedelta
from uuid import UUID

from django.db.models import Exists, F, OuterRef, Prefetch, Q, QuerySet
from django.utils import timezone

from server.accounts.models import Membership
from server.cursors import cut, moment_of, read_cursor
from server.ledger.queries import gone_on
from server.meetings.models import Meeting, Place
from server.minutes.models import Finding, FindingKind, FindingStatus, MinutesLine
from server.minutes.queries import LINE_NUMBERS
from server.notes.models import Comment
from server.sharing.policy import Can, may
from server.sharing.visibility import listed_meetings, visible_meetings

PAGE = 40
_MENTIONED = timedelta(days=21)
_DONE_LATELY = timedelta(days=1)


def with_people(meetings: QuerySet[Meeting]) -> QuerySet[Meeting]:
    """What a row of the library needs, in a fixed number of queries."""
    return meetings.select_related("series", "recording", "capture", "created_by").prefetch_related(
        "people", "voices__person", "stage_runs"
    )


def library_page(meetings: QuerySet[Meeting], cursor: str = "") -> tuple[list[Meeting], str | None]:
    """A page of meetings, newest first, and the cursor of the next page (None at the end). Raises Refused on a broken cursor."""
    if cursor:
        moment, key = read_cursor(cursor, moment_of, UUID, "library")
        meetings = meetings.filter(Q(started_at__lt=moment) | Q(started_at=moment, pk__lt=key))
    return cut(with_people(meetings.order_by("-started_at", "-pk")), PAGE, "started_at")


def taken_out(membership: Membership) -> list[tuple[Meeting, datetime]]:
    """What was taken out of the library and this member may have back, the latest first; each with when it will be deleted."""
    kept = timedelta(days=membership.workspace.keep_removed)
    removed = visible_meetings(membership, removed=True).exclude(place=Place.REHEARSAL).select_related("removed_by").order_by("-removed_at")
    return [(meeting, meeting.removed_at + kept) for meeting in removed[:500] if meeting.removed_at and may(membership, Can.GOVERN, meeting)]


def my_actions(membership: Membership, most: int) -> list[tuple[Finding, str]]:
    """Actions of mine that are not done, the next due first, and behind them those done lately, which may have been ticked by mistake.

    Each as the minutes word it; one whose line somebody took out of the minutes is not mine any more.
    """
    actions = (
        Finding.objects.filter(
            Q(done_at=None) | Q(done_at__gt=timezone.now() - _DONE_LATELY),
            meeting__in=listed_meetings(membership),
            kind=FindingKind.ACTION,
            status=FindingStatus.STANDING,
            owner__user=membership.user,
        )
        .exclude(gone_on(membership))
        .select_related("meeting")
        .prefetch_related(
            LINE_NUMBERS,
            Prefetch("minutes_lines", MinutesLine.objects.only("finding", "text", "removed_at")),
        )
        .order_by(F("done_at").desc(nulls_first=True), F("due").asc(nulls_last=True), "meeting__started_at")
    )
    return as_worded(actions[: 2 * most])[:most]


def as_worded(findings: QuerySet[Finding]) -> list[tuple[Finding, str]]:
    """Each as the minutes word it; without those whose line somebody took out. Wants `minutes_lines` fetched along."""
    found = []
    for finding in findings:
        worded = finding.minutes_lines.all()
        stands = [line.text for line in worded if line.removed_at is None]
        if stands or not worded:
            found.append((finding, stands[0] if stands else finding.text))
    return found


def first_line(finding: Finding) -> int:
    """The number of the line of the record that it leads to."""
    return min((line.number for line in finding.lines.all()), default=1)


def mentions_of(membership: Membership) -> QuerySet[Comment]:
    """Comments of the last weeks that mention one and that one has not answered, the latest first."""
    answered = Comment.objects.filter(user=membership.user, removed_at=None).filter(
        Q(after=OuterRef("pk")) | Q(after=OuterRef("after"), at__gt=OuterRef("at"))
    )
    return (
        Comment.objects.filter(
            ~Exists(answered),
            meeting__in=listed_meetings(membership),
            mentions=membership.user,
            removed_at=None,
            at__gt=timezone.now() - _MENTIONED,
        )
        .exclude(user=membership.user)
        .select_related("user", "meeting")
        .order_by("-at")
    )


def new_meetings(membership: Membership) -> QuerySet[Meeting]:
    """The latest that became readable."""
    return with_people(listed_meetings(membership).filter(ready_at__isnull=False).order_by("-ready_at", "-started_at"))
