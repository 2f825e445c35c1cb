"""Minutes: what was read is laid out by the meeting's template, around what people wrote."""

from __future__ import annotations

from core.minutes import MinutesLine, write_minutes
from core.reading.base import Said, all_said
from server.capture.models import Recording
from server.meetings.models import Meeting
from server.minutes.keep import keep_minutes
from server.minutes.queries import load_reading, template_of
from server.notify import Part
from server.pipeline.work import OF_RECORD, Queue, Report, Stage
from server.record.keep import load_record


def _write(meeting: Meeting, report: Report) -> tuple[list[MinutesLine], list[Said]]:
    """The minutes, and the lines of the record they were drawn from."""
    record = load_record(meeting)
    return write_minutes(load_reading(meeting, record), record, template_of(meeting)), all_said(record)


def _keep_minutes(meeting: Meeting, drawn: tuple[list[MinutesLine], list[Said]]) -> None:
    keep_minutes(meeting, *drawn)


STAGE = Stage(
    "minutes",
    "writing the minutes",
    "2",
    Queue.READING,
    _write,
    _keep_minutes,
    rate=0.003,
    forms=frozenset(Recording.Form),
    new=(Part.MINUTES,),
    again=OF_RECORD,
)
