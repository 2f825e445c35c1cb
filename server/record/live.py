"""The live record as the core reads it: what has been settled so far, under names where a call gives them, with what was written meanwhile."""

from __future__ import annotations

from contextlib import suppress
from datetime import timedelta
from itertools import groupby

import numpy as np
from django.db import IntegrityError, transaction
from django.utils import timezone

from core.reading.along import Known, key_of, read_along
from core.reading.encoder import Turns
from core.record.assemble import with_written
from core.record.model import Line, Participant, Record, Turn
from server.capture.queries import messages_of
from server.meetings.models import Meeting
from server.pipeline.ear import encoder
from server.record.keep import local_start
from server.record.models import LiveReading

_GROWS = 2
"""Turns at the end that are not kept as read: they may go on, and what is said next tells what they are."""

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


def live_turns(meeting: Meeting, record: Record) -> Turns:
    """What the encoder says of the turns of a running meeting: most of it has been read by then (`keep_reading_along`)."""
    return read_along(encoder(), record.turns, _known(meeting))


def keep_reading_along(since: timedelta = timedelta(hours=8)) -> None:
    """Read what is new in each running meeting and keep it, so that whoever asks something there, or comes late, waits for the last minute alone."""
    running = Meeting.objects.filter(capture__stopped_at=None, capture__begun_at__gt=timezone.now() - since, capture__lines__settled=True)
    for meeting in running.distinct().select_related("capture"):
        record = live_record(meeting)
        turns, known = record.turns[:-_GROWS], _known(meeting)
        keys = [key_of(turn) for turn in turns]
        if all(key in known for key in keys):
            continue
        read = read_along(encoder(), turns, known)
        last = {row.end: row for row in meeting.capture.lines.filter(settled=True)}
        fresh = [
            LiveReading(line=last[turn.end], key=key, likely=[round(float(one), 4) for one in likely], vector=vector.astype(np.float16).tobytes())
            for turn, key, likely, vector in zip(turns, keys, read.likely, read.vectors, strict=True)
            if key not in known and turn.end in last
        ]
        with suppress(IntegrityError), transaction.atomic():  # a line was struck while it was read
            LiveReading.objects.bulk_create(fresh, ignore_conflicts=True)


def _known(meeting: Meeting) -> Known:
    rows = LiveReading.objects.filter(line__capture=meeting.capture).values_list("key", "likely", "vector")
    return {key: (np.array(likely), np.frombuffer(vector, np.float16).astype(np.float32)) for key, likely, vector in rows}
