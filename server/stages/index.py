"""Index: what the library shows of a meeting without opening it."""

from __future__ import annotations

from collections import Counter

from server.capture.models import Recording
from server.meetings.models import Meeting
from server.notify import Part
from server.pipeline.work import OF_RECORD, Queue, Report, Stage
from server.record.strip import strips


def _index(meeting: Meeting, report: Report) -> dict:
    standing = meeting.findings.filter(status="standing", kind__in=["decision", "action", "question"]).values_list("kind", flat=True)
    return {"strip": strips(meeting), "counts": dict(Counter(standing))}


def _keep_index(meeting: Meeting, result: dict) -> None:
    Meeting.objects.filter(pk=meeting.pk).update(strip=result["strip"], counts=result["counts"])


STAGE = Stage(
    "index",
    "indexing",
    "1",
    Queue.READING,
    _index,
    _keep_index,
    rate=0.001,
    forms=frozenset(Recording.Form),
    new=(Part.MEETING,),
    again=OF_RECORD,
)
