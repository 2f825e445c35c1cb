"""A series over time, as far as one sees it: its meetings, who was there, what stands and what is open, who speaks how much."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from uuid import UUID

from django.db.models import Count, F, QuerySet, Sum

from server.accounts.models import Membership
from server.calendars.ahead import left_open
from server.library.queries import with_people
from server.meetings.models import Meeting, Person, Series
from server.minutes.models import Finding, FindingKind, FindingStatus
from server.minutes.queries import LINE_NUMBERS
from server.problems import Refused
from server.record.models import Turn
from server.sharing.visibility import listed_meetings

_SHOWN, _STAND = 40, 30
_AIRTIME = 12
"""Meetings over which it is told who speaks how much."""


@dataclass(frozen=True)
class Share:
    """Of what was said in a meeting by people that are known, somebody's part, 0 to 1."""

    name: str
    share: float


@dataclass(frozen=True)
class Known:
    """meetings: the latest first. people: with in how many they were. open, stand: findings of any of them. airtime: by meeting, the latest first."""

    series: Series
    meetings: list[Meeting]
    count: int
    people: list[tuple[Person, int]]
    open: list[Finding]
    stand: list[Finding]
    airtime: list[tuple[Meeting, list[Share]]]


def series_of(membership: Membership, series_id: int) -> tuple[Series, QuerySet[Meeting]]:
    """A series and those of its meetings that this member sees. Raises Refused where they see none."""
    series = Series.objects.filter(pk=series_id, workspace=membership.workspace).first()
    meetings = listed_meetings(membership).filter(series=series_id)
    if series is None or not meetings.exists():
        raise Refused(404, "There is no such series, or no meeting of it that you may see.")
    return series, meetings


def about_series(membership: Membership, series_id: int) -> Known:
    """All that its page shows. Raises Refused."""
    series, meetings = series_of(membership, series_id)
    latest = list(with_people(meetings.order_by("-started_at"))[:_SHOWN])
    people = Person.objects.filter(meetings__in=meetings).annotate(times=Count("attendee__meeting", distinct=True)).order_by("-times", "name")
    standing = Finding.objects.filter(meeting__in=latest, kind=FindingKind.DECISION, status=FindingStatus.STANDING)
    return Known(
        series,
        latest,
        meetings.count(),
        [(one, one.times) for one in people[:60]],
        left_open(membership, latest),
        list(standing.select_related("meeting", "owner").prefetch_related(LINE_NUMBERS).order_by("-meeting__started_at", "start", "pk")[:_STAND]),
        _airtime(latest[:_AIRTIME]),
    )


def _airtime(meetings: Sequence[Meeting]) -> list[tuple[Meeting, list[Share]]]:
    rows = (
        Turn.objects.filter(meeting__in=meetings, written=False, voice__person__isnull=False)
        .values("meeting", "voice__person__name")
        .annotate(spoken=Sum(F("end") - F("start")))
    )
    spoken: dict[UUID, dict[str, float]] = defaultdict(dict)
    for row in rows:
        spoken[row["meeting"]][row["voice__person__name"]] = row["spoken"]
    return [
        (meeting, [Share(name, seconds / whole) for name, seconds in sorted(own.items(), key=lambda one: -one[1])])
        for meeting in meetings
        if (own := spoken[meeting.pk]) and (whole := sum(own.values())) > 0
    ]


@dataclass(frozen=True)
class Neighbours:
    """The meetings of the same series before and after one, of those that a member sees."""

    series: Series | None = None
    before: Meeting | None = None
    after: Meeting | None = None


def neighbours(membership: Membership, meeting: Meeting) -> Neighbours:
    """By when they began."""
    if meeting.series is None:
        return Neighbours()
    others = listed_meetings(membership).filter(series=meeting.series).exclude(pk=meeting.pk)
    return Neighbours(
        meeting.series,
        others.filter(started_at__lte=meeting.started_at).order_by("-started_at").first(),
        others.filter(started_at__gt=meeting.started_at).order_by("started_at").first(),
    )
