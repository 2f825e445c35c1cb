"""A record as files."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict, dataclass
from typing import Any

from django.conf import settings

from core.formats.outward import Mark, Shown
from core.formats.writers import WRITERS, Asked
from core.record.timeline import Span
from server.languages import LONG_HOUR, alongside, at, translated
from server.meetings.models import Meeting
from server.record.keep import load_record
from server.record.models import Line

LONG = 1200
"""Lines, about an hour of talk, from which a document on paper takes more than a second to set."""


def part_of(start: float | None, end: float | None) -> Span | None:
    """What lies between two seconds; None where neither is given."""
    if start is None and end is None:
        return None
    return Span(start or 0.0, end if end is not None else float("inf"))


@dataclass(frozen=True)
class Wanted:
    """What is shown of a record that is taken away."""

    speakers: bool = True
    times: bool = True
    joined: bool = True
    marks: bool = False
    captions: bool = False
    link: bool = False
    part: Span | None = None

    def packed(self) -> dict[str, Any]:
        """For a row; JSON knows no end without end."""
        part = self.part and (self.part.start, self.part.end if self.part.end < float("inf") else None)
        return {**asdict(self), "part": part}

    @classmethod
    def unpacked(cls, kept: dict[str, Any]) -> Wanted:
        """From a row."""
        return cls(**{**kept, "part": part_of(*kept["part"]) if kept["part"] else None})


def is_long(meeting: Meeting, form: str) -> bool:
    """Is this form of the record for a worker?"""
    return WRITERS[form].slow and Line.objects.filter(meeting=meeting).count() >= LONG


def record_file(meeting: Meeting, form: str, wanted: Wanted, report: Callable[[float], None] = lambda share: None) -> bytes:
    """The record, or a part of it, as a file of a form of WRITERS. report: told the share that is done, where that takes long."""
    flagged = meeting.marks.filter(removed_at=None) if wanted.marks else ()
    shown = Shown(
        wanted.speakers,
        wanted.times,
        wanted.joined,
        tuple(Mark(mark.kind, mark.start, mark.end) for mark in flagged),
        wanted.part,
        f"{settings.BASE_URL}/meetings/{meeting.pk}" if wanted.link else "",
    )
    people = ", ".join(meeting.people.order_by("attendee__id").values_list("name", flat=True))
    writer = WRITERS[form]
    with alongside(meeting.language):
        about = tuple(line for line in (at(meeting.started_at, LONG_HOUR, meeting.time_zone), people) if line)
        asked = Asked(meeting.title, about, shown, wanted.captions, settings.FONTS, report, translated)
        return writer.file(load_record(meeting, words=writer.words), asked)
