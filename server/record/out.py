"""A record as files."""

from __future__ import annotations

from zoneinfo import ZoneInfo

from django.conf import settings

from core.formats import json_record, subrip, webvtt_record
from core.formats.minute_book import to_docx, to_pdf
from core.formats.outward import Mark, Shown, to_csv, to_document, to_markdown, to_rttm, to_srt, to_text, to_webvtt
from core.record.timeline import Span
from server.meetings.models import Meeting
from server.record.keep import load_record

FORMS = {
    "txt": "text/plain; charset=utf-8",
    "md": "text/markdown; charset=utf-8",
    "docx": "application/vnd.openxmlformats-officedocument.wordprocessingml.document",
    "pdf": "application/pdf",
    "vtt": "text/vtt; charset=utf-8",
    "srt": "application/x-subrip; charset=utf-8",
    "rttm": "text/plain; charset=utf-8",
    "csv": "text/csv; charset=utf-8",
    "json": "application/json; charset=utf-8",
}
"""Form → its media type."""


def record_file(
    meeting: Meeting, form: str, *, speakers: bool, times: bool, joined: bool, marks: bool, captions: bool, link: bool, part: Span | None
) -> bytes:
    """The record, or a part of it, as a file of a form of FORMS.

    captions: WebVTT and SRT as captions that can be read, instead of a passage a line, which can be read in again as the same record.
    """
    record = load_record(meeting, words=form == "json" or captions)
    flagged = meeting.marks.filter(removed_at=None) if marks else ()
    shown = Shown(
        speakers,
        times,
        joined,
        tuple(Mark(mark.kind, mark.start, mark.end) for mark in flagged),
        part,
        f"{settings.BASE_URL}/meetings/{meeting.pk}" if link else "",
    )
    match form:
        case "txt":
            text = to_text(record, meeting.title, shown)
        case "md":
            text = to_markdown(record, meeting.title, shown)
        case "csv":
            text = to_csv(record, shown)
        case "rttm":
            text = to_rttm(record, shown)
        case "vtt":
            text = to_webvtt(record, shown) if captions else webvtt_record.dump(record)
        case "srt":
            text = to_srt(record, shown) if captions else subrip.dump(record)
        case "json":
            text = json_record.dump(record)
        case _:
            when = meeting.started_at.astimezone(ZoneInfo(meeting.time_zone))
            people = ", ".join(meeting.people.order_by("attendee__id").values_list("name", flat=True))
            document = to_document(record, meeting.title, [line for line in (f"{when:%A %-d %B %Y, %H:%M}", people) if line], shown)
            return to_docx(document) if form == "docx" else to_pdf(document, settings.FONTS)
    return text.encode()
