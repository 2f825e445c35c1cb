"""The live record as the core reads it: what has been settled so far, under names where a call gives them, with what was written meanwhile."""

from __future__ import annotations

from itertools import groupby

from core.record.assemble import with_written
from core.record.model import Line, Participant, Record, Turn
from server.capture.queries import messages_of
from server.meetings.models import Meeting
from server.record.keep import local_start

UNNAMED = "Voice A"
"""Of lines that are nobody's yet."""


def runs_still(meeting: Meeting) -> bool:
    """Is it captured and has no record of its own yet?"""
    return hasattr(meeting, "capture") and not meeting.lines.exists()


def live_record(meeting: Meeting, since: float = 0.0) -> Record:
    """What was said from a second on. A turn is what one voice says in a row; where nobody is told apart yet, each line is one."""
    rows = [row for row in meeting.capture.lines.filter(settled=True) if row.end > since]
    turns: list[Turn] = []
    for (name, _), said in groupby(rows, key=lambda row: (row.name, row.number if not row.name else 0)):
        lines = tuple(Line(row.text, row.start, row.end) for row in said)
        turns.append(Turn(len(turns) + 1, name or UNNAMED, lines))
    written = [message for message in messages_of(meeting.capture) if message[0] > since]
    people = tuple(Participant(person.name, person.organisation) for person in meeting.people.order_by("attendee__id"))
    end = rows[-1].end if rows else 0.0
    return Record(str(meeting.pk), with_written(turns, written), end, meeting.language or None, local_start(meeting), people)
