"""Minutes as files."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from django.conf import settings
from django.utils import timezone

from core.formats.drawing import Drawing
from core.formats.minute_book import Document, Entry, Part, to_docx
from core.formats.minute_page import to_html
from core.formats.talk_map import PAGE, draw_map
from core.formats.writers import to_pdf
from core.minutes import MinutesLine, to_markdown, to_text
from core.minutes.markdown import clock, in_full, sections_of
from core.minutes.talk_map import map_of
from core.minutes.write import Agreed
from core.reading.base import all_said
from core.reading.chapters import Chapter
from core.record.model import Record
from server.languages import LONG_HOUR, MOMENT, alongside, at, said, translated
from server.meetings.models import Meeting
from server.minutes.queries import load_reading, standing, template_of
from server.record.keep import load_record

COLUMNS: tuple[str, ...] = ("What", "Who", "By when", "Done")
"""Of the table of actions."""
FORMS = ("md", "txt", "docx", "pdf", "html")
"""The forms in which minutes are taken away."""


def minutes_file(meeting: Meeting, form: str, now: datetime | None = None) -> bytes:
    """The minutes as a file of a form of FORMS, as they stand, with the moment at which they do; headings and dates are in the language of the meeting."""
    with alongside(meeting.language):
        return _file(meeting, form, now or timezone.now())


def _file(meeting: Meeting, form: str, stood: datetime) -> bytes:
    template, record = template_of(meeting), load_record(meeting)
    lines = [line for _, line in standing(meeting, all_said(record), removed=False)]
    chapters = [Chapter(row.title, row.turn, row.start) for row in meeting.chapters.order_by("start")]
    people = ", ".join(meeting.people.order_by("attendee__id").values_list("name", flat=True))
    as_of = said("As they stood on {0} ({1})", at(stood, MOMENT, meeting.time_zone), meeting.time_zone)
    about = tuple(line for line in (at(meeting.started_at, LONG_HOUR, meeting.time_zone), people, as_of) if line)
    if form in ("md", "txt"):
        write = to_markdown if form == "md" else to_text
        return write(meeting.title, lines, chapters, template, about, translated).encode()
    parts = [_part(heading, inside) for heading, inside in sections_of(template, lines, translated)]
    if chapters:
        parts.append(Part(translated("Chapters"), tuple(Entry(chapter.title, clock(chapter.start)) for chapter in chapters)))
    language = (meeting.language or "en").split("+")[0]
    document = Document(meeting.title, about, tuple(parts), language, map_drawn(meeting, record) if chapters else None, translated("Map of the talk"))
    if form == "html":
        return to_html(document).encode()
    return to_docx(document, settings.FONTS) if form == "docx" else to_pdf(document, settings.FONTS)


def map_drawn(meeting: Meeting, record: Record, width: float = PAGE[0], height: float | None = PAGE[1]) -> Drawing:
    """The map of the talk, of a meeting and its record."""
    return draw_map(map_of(record, load_reading(meeting, record)), settings.FONTS, width, height, translated)


def _part(heading: str, lines: Sequence[MinutesLine]) -> Part:
    """A section; one of actions alone is a table."""
    if not all(line.action for line in lines):
        return Part(heading, tuple(Entry(in_full(line, translated), _margin(line)) for line in lines))
    rows = []
    for line in lines:
        action = line.action or Agreed()
        rows.append(Entry(line.text, _margin(line), (action.owner or "", action.due.isoformat() if action.due else "", "✓" if action.done else "")))
    return Part(heading, tuple(rows), tuple(map(translated, COLUMNS)))


def _margin(line: MinutesLine) -> str:
    return line.hand or (clock(min(said.line.start for said in line.said)) if line.said else "")
