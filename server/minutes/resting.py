"""Findings and lines of the minutes rest on lines of the record; one jotted down, on what was being said."""

from __future__ import annotations

from collections.abc import Iterable

from server.meetings.models import Meeting
from server.minutes.models import Finding, MinutesLine
from server.record.resting import RESTING, Resting


def _resting(meeting: Meeting) -> Iterable[Resting]:
    for finding in Finding.objects.filter(meeting=meeting):
        yield Resting(finding, _jotted(finding))
    for line in MinutesLine.objects.filter(meeting=meeting).select_related("finding"):
        yield Resting(line, _jotted(line.finding))


def _jotted(finding: Finding | None) -> float | None:
    return finding.start if finding and finding.jotted_by_id else None


RESTING.append(_resting)
