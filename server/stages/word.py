"""Word: what was read is worded anew by the writer, as far as the lines hold it. It goes on behind a meeting that can be read already."""

from __future__ import annotations

import logging
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from typing import Any

from core.minutes import write_minutes
from core.reading import Reading
from core.reading.base import all_said
from core.reading.writer.endpoint import Fallback
from core.reading.writer.rewording import Writes, reworded
from core.record.model import Record
from server.capture.models import Recording
from server.meetings.models import Meeting
from server.meetings.people import day_of
from server.minutes.actions.own_writer import endpoint_of
from server.minutes.keep import keep_minutes, keep_wording
from server.minutes.models import WORDED
from server.minutes.queries import load_reading, template_of
from server.minutes.wordings import keep_wordings, known_wordings
from server.notify import Part
from server.pipeline.ear import has_writer, judge, writer
from server.pipeline.models import RunState, StageRun
from server.pipeline.work import OF_RECORD, Outdated, Queue, Report, Stage
from server.record.keep import load_record

logger = logging.getLogger("server.pipeline")


def _word(meeting: Meeting, report: Report) -> tuple[Reading, Record]:
    """The reading in the writer's words, and the record it is of."""
    record = load_record(meeting)
    running = StageRun.objects.filter(meeting=meeting, stage="word", state=RunState.RUNNING)

    def remember(written: Mapping[str, str]) -> None:
        if not running.exists():
            raise Outdated
        keep_wordings(meeting, written)

    with _writer(meeting) as words:
        reading = load_reading(meeting, record)
        return reworded(reading, record, day_of(meeting), known_wordings(meeting), words, remember, report, judge() if words else None), record


def _keep_words(meeting: Meeting, worded: tuple[Reading, Record]) -> None:
    reading, record = worded
    keep_wording(meeting, reading)
    drawn = write_minutes(load_reading(meeting, record), record, template_of(meeting))
    keep_minutes(meeting, drawn, all_said(record), WORDED)


@contextmanager
def _writer(meeting: Meeting) -> Iterator[Writes | None]:
    """The workspace's own where it has one, with the one that is built in for when that does not answer."""
    own = endpoint_of(meeting.workspace)
    if not has_writer():
        yield own
        return
    with writer.use() as built_in:
        words = Fallback(own, built_in) if own else built_in
        yield words
        if isinstance(words, Fallback) and words.trouble:
            logger.warning("meeting %s was worded by the writer that is built in. %s", meeting.pk, words.trouble)


def _is_there(recording: Any) -> bool:
    return has_writer() or endpoint_of(recording.meeting.workspace) is not None


STAGE = Stage(
    "word",
    "wording the minutes",
    "taught-1",
    Queue.WRITING,
    _word,
    _keep_words,
    rate=0.1,
    forms=frozenset(Recording.Form),
    new=(Part.MINUTES, Part.MEETING),
    again=OF_RECORD,
    applies=_is_there,
    behind=True,
)
