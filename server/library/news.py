"""What is new for a member: on Today, and by mail."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from django.db.models import Count, Prefetch, Q, QuerySet

from core.reading.base import first_name
from server.accounts.models import Membership
from server.calendars.queries import Entry, day_of_sheet
from server.ledger.queries import gone_on
from server.library.missed import missed
from server.library.models import Digest
from server.library.queries import as_worded
from server.meetings.models import Meeting
from server.minutes.models import Finding, FindingKind, FindingStatus, MinutesLine
from server.minutes.queries import LINE_NUMBERS
from server.notes.models import Comment
from server.record.models import Line
from server.searched import asked_for
from server.sharing.visibility import listed_meetings

_MOST, _IN_SHORT, _LOOKED_AT = 30, 2, 500
LONGEST = timedelta(days=14)
"""What is older than this is not new, however long one was away."""


@dataclass(frozen=True)
class Missed:
    """A meeting that one was to be at. gist: its first sentences; named: how many of its lines say one's first name."""

    meeting: Meeting
    gist: list[str]
    named: int


@dataclass(frozen=True)
class News:
    """What became readable after a moment: meetings, what they decided, what they gave one to do; where one was mentioned; what one missed. And
    what is ahead on the days that come."""

    since: datetime
    meetings: list[Meeting] = field(default_factory=list)
    decisions: list[tuple[Finding, str]] = field(default_factory=list)
    given: list[tuple[Finding, str]] = field(default_factory=list)
    mentions: list[Comment] = field(default_factory=list)
    missed: list[Missed] = field(default_factory=list)
    ahead: list[Entry] = field(default_factory=list)

    @property
    def anything(self) -> bool:
        """Is there anything at all?"""
        return any((self.meetings, self.given, self.mentions, self.ahead))


def since_of(membership: Membership, now: datetime) -> datetime:
    """When a member last said that they had seen what was new; not longer ago than a fortnight."""
    known = Digest.objects.filter(membership=membership).first()
    return max(known.looked_at if known and known.looked_at else now - LONGEST, now - LONGEST)


def news(membership: Membership, since: datetime, now: datetime, zone: ZoneInfo, days: int = 0) -> News:
    """What became readable after a moment, as far as the member sees it. days: of those that come, from today on, what is
    on them. zone: whose days they are."""
    fresh = _fresh(membership, since, now)
    mentions = Comment.objects.filter(meeting__in=listed_meetings(membership), mentions=membership.user, removed_at=None, at__gt=since, at__lte=now)
    entries = [entry for ahead in range(days) for entry in day_of_sheet(membership, now.astimezone(zone).date() + timedelta(days=ahead), zone)]
    mine = Finding.objects.filter(kind=FindingKind.ACTION, owner__user=membership.user, done_at=None)
    given = Q(meeting__in=fresh) | Q(meeting__in=listed_meetings(membership), given_at__gt=since, given_at__lte=now)
    return News(
        since,
        list(fresh.select_related("series").prefetch_related("people").order_by("-started_at", "pk")[:_MOST]),
        as_worded(_settled(Finding.objects.filter(kind=FindingKind.DECISION, meeting__in=fresh)).exclude(gone_on(membership))[:_MOST]),
        as_worded(_settled(mine.filter(given)).exclude(gone_on(membership))[:_MOST]),
        list(mentions.exclude(user=membership.user).select_related("user", "meeting").order_by("at")[:_MOST]),
        _missed(membership, fresh),
        [entry for entry in entries if entry.counts and entry.planned and entry.start > now],
    )


def _fresh(membership: Membership, since: datetime, now: datetime) -> QuerySet[Meeting]:
    """What became readable meanwhile; known by keys, so that what is asked of it is not asked of all meetings."""
    fresh = listed_meetings(membership).filter(ready_at__gt=since, ready_at__lte=now)
    return fresh.filter(pk__in=list(fresh.order_by("-ready_at").values_list("pk", flat=True)[:_LOOKED_AT]))


def _settled(findings: QuerySet[Finding]) -> QuerySet[Finding]:
    lines = Prefetch("minutes_lines", MinutesLine.objects.only("finding", "text", "removed_at"))
    return findings.filter(status=FindingStatus.STANDING).select_related("meeting").prefetch_related(lines, LINE_NUMBERS).order_by("-meeting__started_at", "meeting", "start")


def _missed(membership: Membership, fresh: QuerySet[Meeting]) -> list[Missed]:
    rows = list(missed(membership, fresh)[:_MOST])
    gist = MinutesLine.objects.filter(meeting__in=rows, section="gist", removed_at=None).order_by("meeting", "position")
    saying = Line.objects.filter(meeting__in=rows, search=asked_for(first_name(membership.user.called)))
    named = dict(saying.order_by().values("meeting").annotate(times=Count("pk")).values_list("meeting", "times"))
    return [
        Missed(
            meeting,
            [line.text for line in gist if line.meeting_id == meeting.pk][:_IN_SHORT],
            named.get(meeting.pk, 0),
        )
        for meeting in rows
    ]
