"""What is drawn from records and written in minutes."""

from __future__ import annotations

from collections.abc import Iterable

from core.record.timeline import Span
from server.meetings.models import Meeting
from server.minutes.models import Finding, MinutesLine, Template, TurnReading
from server.minutes.queries import LINE_NUMBERS
from server.purging import Purger, Resting, Struck, Texts, Where, register


class _Minutes(Purger):
    def texts(self, meeting: Meeting) -> Iterable[Texts]:
        others = {"meeting__workspace": meeting.workspace_id}
        by_hand = MinutesLine.objects.exclude(hand_initials="")
        jotted = Finding.objects.exclude(jotted_by=None)
        yield Texts(by_hand.filter(meeting=meeting), "text")
        yield Texts(jotted.filter(meeting=meeting), "text", start="start", end="end")
        yield Texts(by_hand.filter(**others).exclude(meeting=meeting), "text", Where.ELSEWHERE)
        yield Texts(jotted.filter(**others).exclude(meeting=meeting), "text", Where.ELSEWHERE)
        yield Texts(Template.objects.filter(workspace=meeting.workspace_id), "title", Where.ELSEWHERE)
        yield Texts(Template.objects.filter(workspace=meeting.workspace_id), "data", Where.ELSEWHERE)

    def resting(self, struck: Struck) -> Iterable[Resting]:
        findings = Finding.objects.filter(meeting=struck.meeting).prefetch_related(LINE_NUMBERS)
        lines = MinutesLine.objects.filter(meeting=struck.meeting).prefetch_related(LINE_NUMBERS)
        rows: list[Finding | MinutesLine] = [*findings, *lines]
        for row in rows:
            by_hand = row.by_hand if isinstance(row, MinutesLine) else row.jotted_by_id is not None
            rests = any(line.pk in struck.touched for line in row.lines.all())
            if rests or not by_hand and struck.quotes.blanked(row.text) != row.text:
                kind, initials = (row.kind, "") if isinstance(row, Finding) else ("minutes", row.hand_initials)
                yield Resting(row, kind, row.text, by_hand, initials)

    def counts(self, struck: Struck) -> dict[str, int]:
        return {"versions": struck.meeting.versions.count()}

    def purge(self, struck: Struck) -> None:
        meeting = struck.meeting
        for version in meeting.versions.all():
            version.lines = [kept for one in version.lines if (kept := _of_version(one, struck))]
            version.save(update_fields=["lines"])
        # Drawn from all of the record: what they say of the rest may show what is gone. They are drawn anew at once.
        meeting.chapters.all().delete()
        meeting.wordings.all().delete()
        TurnReading.objects.filter(turn__meeting=meeting).delete()
        Meeting.objects.filter(pk=meeting.pk).update(topics=[])


def _of_version(one: dict, struck: Struck) -> dict | None:
    """A line of an earlier version without what is struck; None where it goes."""
    rests = any(Span(*given).overlaps(span) for given in one["spans"] for span in struck.cut.spans)
    by_hand = bool(one["hand_initials"])
    text = struck.quotes.blanked(one["text"], near=rests)
    if rests and (struck.take_own or not by_hand) or not by_hand and text != one["text"]:
        return None
    return {**one, "text": text}


register(_Minutes())
