"""Steps rest on lines of the record."""

from __future__ import annotations

from collections.abc import Iterable

from server.ledger.models import Step
from server.meetings.models import Meeting
from server.record.resting import RESTING, Resting


def _resting(meeting: Meeting) -> Iterable[Resting]:
    for step in Step.objects.filter(meeting=meeting):
        yield Resting(step, None)


RESTING.append(_resting)
