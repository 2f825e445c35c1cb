"""A meeting as a row of the library."""

from __future__ import annotations

from datetime import datetime
from uuid import UUID

from ninja import Schema

from server.convening.api import LaneOut, lanes_of
from server.meetings.models import Meeting


class RowOut(Schema):
    """counts: of what stands in it, by kind. strip: in small. playable: it can be heard."""

    id: UUID
    title: str
    started_at: datetime
    duration: float
    place: str
    series: str | None
    visibility: str
    people: list[str]
    counts: dict[str, int]
    strip: list[LaneOut]
    ready: bool
    playable: bool


def row_of(meeting: Meeting) -> dict:
    """A meeting as a row of the library."""
    people = [person.name for person in meeting.people.all()]
    return {
        "id": meeting.pk,
        "title": meeting.title,
        "started_at": meeting.started_at,
        "duration": meeting.duration,
        "place": meeting.place,
        "series": meeting.series and meeting.series.name,
        "visibility": meeting.visibility,
        "people": people,
        "counts": meeting.counts,
        "strip": lanes_of(meeting, "small"),
        "ready": meeting.ready_at is not None,
        "playable": bool(meeting.recording.listening) if hasattr(meeting, "recording") else False,
    }
