"""What files that are taken away are called: by day and meeting, so that a folder of them sorts itself."""

from __future__ import annotations

import re

from django.utils.http import content_disposition_header

from core.text import one_line
from server.meetings.models import Meeting
from server.meetings.people import day_of

_FORBIDDEN = re.compile(r'[\\/:*?"<>|]+')
_MOST = 90
"""Signs of a title; file systems take 255 bytes of a name."""


def file_name(meeting: Meeting, what: str, form: str) -> str:
    """Such as "2026-03-09 Works round, minutes.docx"."""
    title = _FORBIDDEN.sub("-", one_line(meeting.title))[:_MOST].strip(" .")
    return f"{day_of(meeting)} {title}, {what}.{form}"


def attachment(meeting: Meeting, what: str, form: str) -> dict[str, str]:
    """The header (RFC 6266) with its name."""
    return {"Content-Disposition": str(content_disposition_header(True, file_name(meeting, what, form)))}
