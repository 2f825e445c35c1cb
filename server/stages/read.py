"""Read: findings and chapters are drawn from the record."""

from __future__ import annotations

from core.minutes import propose_kind
from core.reading import READER_VERSION, AgendaPoint, Reading, read
from core.reading.base import all_said
from core.reading.writer.rewording import reworded
from server.capture.models import Recording
from server.capture.queries import pictures_of
from server.languages import alongside, translated
from server.meetings.models import Meeting
from server.meetings.people import day_of
from server.minutes.keep import keep_reading
from server.minutes.wordings import known_wordings
from server.pipeline.ear import encoder
from server.pipeline.work import OF_RECORD, Queue, Report, Stage
from server.record.keep import load_record


def _read(meeting: Meeting, report: Report) -> tuple[Reading, str]:
    """What is read, and the template that the talk suggests."""
    record, known = load_record(meeting), known_wordings(meeting)
    agenda = [AgendaPoint(point.text, point.begun_at) for point in meeting.points.all()]
    if hasattr(meeting, "capture"):
        # Where a chapter talks of what a slide is called, it is called so.
        agenda += [AgendaPoint(title) for title in dict.fromkeys(picture.title for picture, _ in pictures_of(meeting.capture)) if title]
    named = f"{meeting.title} {meeting.series.name if meeting.series else ''}"
    with alongside(record.language):
        drawn = read(record, encoder(), agenda, report, put=translated)
    reading = reworded(drawn, record, day_of(meeting), known)
    return reading, propose_kind(named, record, all_said(record)) or ""


def _keep_reading(meeting: Meeting, found: tuple[Reading, str]) -> None:
    keep_reading(meeting, *found)


STAGE = Stage(
    "read",
    "reading the record",
    READER_VERSION,
    Queue.READING,
    _read,
    _keep_reading,
    rate=0.006,
    forms=frozenset(Recording.Form),
    again=OF_RECORD,
)
