"""Steps rest on lines of the record; one that was ticked while people spoke, on what was being said."""

from __future__ import annotations

from collections.abc import Iterable

from server.ledger.models import Step
from server.meetings.models import Meeting
from server.record.resting import RESTING, Resting


def _resting(meeting: Meeting) -> Iterable[Resting]:
    for step in Step.objects.filter(meeting=meeting):
        yield Resting(step, step.at)


RESTING.append(_resting)
