"""What people write, flag and say of passages."""

from __future__ import annotations

from collections.abc import Iterable

from server.meetings.models import Meeting
from server.notes.models import Comment, Note
from server.purging import Purger, Struck, Texts, Where, register


class _Notes(Purger):
    def texts(self, meeting: Meeting) -> Iterable[Texts]:
        yield Texts(meeting.notes.all(), "text", start="at")
        yield Texts(meeting.comments.all(), "text", start="start", end="end")
        for model in (Note, Comment):
            elsewhere = model.objects.filter(meeting__workspace=meeting.workspace_id).exclude(meeting=meeting)
            yield Texts(elsewhere, "text", Where.ELSEWHERE)

    def counts(self, struck: Struck) -> dict[str, int]:
        meeting = struck.meeting
        return {
            "marks": sum(struck.inside(mark.start, mark.end) for mark in meeting.marks.filter(removed_at=None)),
            "comments": sum(struck.overlaps(one.start, one.end) for one in meeting.comments.filter(removed_at=None)),
        }

    def purge(self, struck: Struck) -> None:
        meeting = struck.meeting
        for span in struck.cut.spans:
            meeting.notes.filter(at__gte=span.start, at__lt=span.end).update(at=None)
            meeting.marks.filter(start__gte=span.start, end__lte=span.end).delete()
            meeting.reactions.filter(start__gte=span.start, end__lte=span.end).delete()
            if struck.take_own:
                meeting.comments.filter(start__lt=span.end, end__gt=span.start).delete()


register(_Notes())
