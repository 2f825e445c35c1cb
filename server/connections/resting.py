"""Answers that fill fields rest on lines of the record."""

from __future__ import annotations

from collections.abc import Iterable

from server.connections.models import FieldAnswer
from server.meetings.models import Meeting
from server.record.resting import RESTING, Resting


def _resting(meeting: Meeting) -> Iterable[Resting]:
    for answer in FieldAnswer.objects.filter(meeting=meeting):
        yield Resting(answer)


RESTING.append(_resting)
