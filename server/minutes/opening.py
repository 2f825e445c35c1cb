"""What follows when a line of the minutes changes: the opening says the same."""

from __future__ import annotations

from core.reading.gist import LEADS, in_short, is_of_subjects
from server.languages import alongside, translated
from server.minutes.models import MinutesLine
from server.minutes.queries import LINE_NUMBERS, template_of


def follow(row: MinutesLine) -> None:
    """In the transaction that is open: the sentence of *In short* about the same finding says what the line says now, and goes while the line
    is out; one that sums up several does not know of it, and makes way for it. One that somebody worded or ticked stays as it is."""
    if row.finding is None or row.finding.kind not in LEADS:
        return
    evidence = {line.pk for line in row.lines.all()}
    openings = [section.key for section in template_of(row.meeting).sections if section.takes == ("gist",)]
    drawn = MinutesLine.objects.filter(meeting=row.meeting, section__in=openings, hand_initials="", confirmed_initials="")
    with alongside(row.meeting.language):
        for one in drawn.prefetch_related(LINE_NUMBERS):
            if evidence and evidence <= {line.pk for line in one.lines.all()} and not is_of_subjects(one.text, translated):
                one.text, one.removed_at = in_short(row.finding.kind, row.text, translated), row.removed_at
                one.lines.set(evidence)
                one.save(update_fields=["text", "removed_at"])
