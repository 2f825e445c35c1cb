"""What follows when a line of the minutes changes: the opening says the same."""

from __future__ import annotations

from core.reading.gist import LEADS, in_short
from server.minutes.models import MinutesLine
from server.minutes.queries import LINE_NUMBERS


def follow(row: MinutesLine) -> None:
    """In the transaction that is open: the sentence of *In short* about the same finding says what the line says now, and goes while the line
    is out. One that somebody worded or ticked stays as it is."""
    if row.finding is None or row.finding.kind not in LEADS:
        return
    evidence = {line.pk for line in row.lines.all()}
    drawn = MinutesLine.objects.filter(meeting=row.meeting, finding=None, hand_initials="", confirmed_initials="")
    for one in drawn.filter(text__startswith=f"{LEADS[row.finding.kind]}: ").prefetch_related(LINE_NUMBERS):
        if {line.pk for line in one.lines.all()} == evidence:
            one.text, one.removed_at = in_short(row.finding.kind, row.text), row.removed_at
            one.save(update_fields=["text", "removed_at"])
