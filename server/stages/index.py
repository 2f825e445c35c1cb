"""Index: what the library shows of a meeting without opening it, and what it is found by."""

from __future__ import annotations

from collections import Counter

from server.capture.models import Recording
from server.library.senses import Sensed, keep_senses, sense
from server.library.vocabulary import keep_words_of
from server.meetings.models import Meeting
from server.notify import Part
from server.pipeline.work import OF_RECORD, Queue, Report, Stage
from server.record.strip import strips


def _index(meeting: Meeting, report: Report) -> tuple[dict, list[Sensed]]:
    standing = meeting.findings.filter(status="standing", kind__in=["decision", "action", "question"]).values_list("kind", flat=True)
    return {"strip": strips(meeting), "counts": dict(Counter(standing))}, sense(meeting)


def _keep_index(meeting: Meeting, result: tuple[dict, list[Sensed]]) -> None:
    shown, sensed = result
    Meeting.objects.filter(pk=meeting.pk).update(**shown)
    keep_senses(meeting, sensed)
    keep_words_of(meeting)


STAGE = Stage(
    "index",
    "indexing",
    "3",
    Queue.READING,
    _index,
    _keep_index,
    rate=0.002,
    forms=frozenset(Recording.Form),
    new=(Part.MEETING,),
    again=OF_RECORD,
)
