"""A record as files."""

from __future__ import annotations

from zoneinfo import ZoneInfo

from django.conf import settings

from core.formats.outward import Mark, Shown
from core.formats.writers import WRITERS, Asked
from core.record.timeline import Span
from server.meetings.models import Meeting
from server.record.keep import load_record


def record_file(
    meeting: Meeting, form: str, *, speakers: bool, times: bool, joined: bool, marks: bool, captions: bool, link: bool, part: Span | None
) -> bytes:
    """The record, or a part of it, as a file of a form of WRITERS."""
    flagged = meeting.marks.filter(removed_at=None) if marks else ()
    shown = Shown(
        speakers,
        times,
        joined,
        tuple(Mark(mark.kind, mark.start, mark.end) for mark in flagged),
        part,
        f"{settings.BASE_URL}/meetings/{meeting.pk}" if link else "",
    )
    when = meeting.started_at.astimezone(ZoneInfo(meeting.time_zone))
    people = ", ".join(meeting.people.order_by("attendee__id").values_list("name", flat=True))
    about = tuple(line for line in (f"{when:%A %-d %B %Y, %H:%M}", people) if line)
    writer = WRITERS[form]
    return writer.file(load_record(meeting, words=writer.words), Asked(meeting.title, about, shown, captions, settings.FONTS))
