"""What can go: which of it a meeting has, and what is said of one."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from django.conf import settings
from ninja import Schema

from server.accounts.models import Membership
from server.connections.models import Subject
from server.meetings.models import Meeting


class MeetingSaid(Schema):
    """A meeting, as it is told of elsewhere."""

    id: UUID
    title: str
    started_at: datetime
    time_zone: str
    series: str | None
    people: list[str]
    link: str


class QuoteSaid(Schema):
    """A line of the record that something rests on. at: seconds from the beginning; link: leads there."""

    who: str
    text: str
    at: float
    link: str


@dataclass(frozen=True)
class Thing:
    """One subject. contents: what is said of one (`compose`). keys: those that a meeting has and that somebody may see. compose: what is said of one, by its key, as
    far as somebody may see it; None where it is not there (any more), or not to be seen. meeting: of which meeting one is, as they see it."""

    subject: Subject
    contents: type[Schema]
    keys: Callable[[Membership, Meeting], Iterable[str]]
    compose: Callable[[Membership, str], tuple[Meeting, Schema] | None]


def told(meeting: Meeting) -> MeetingSaid:
    """A meeting, told of."""
    return MeetingSaid(
        id=meeting.pk,
        title=meeting.title,
        started_at=meeting.started_at,
        time_zone=meeting.time_zone,
        series=meeting.series.name if meeting.series else None,
        people=list(meeting.people.order_by("attendee__id").values_list("name", flat=True)),
        link=link_of(meeting),
    )


def link_of(meeting: Meeting, at: float | None = None) -> str:
    """The address of a meeting here, or of a second of it."""
    address = f"{settings.BASE_URL}/meetings/{meeting.pk}"
    return address if at is None else f"{address}?at={at:.0f}"
