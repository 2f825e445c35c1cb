"""Excerpts keep times and no words, but for their titles and those of sequences."""

from __future__ import annotations

from collections.abc import Iterable

from server.excerpts.models import Excerpt, Sequence
from server.meetings.models import Meeting
from server.purging import Purger, Struck, Texts, Where, register


class _Excerpts(Purger):
    def texts(self, meeting: Meeting) -> Iterable[Texts]:
        yield Texts(meeting.excerpts.all(), "title", start="start", end="end")
        elsewhere = Excerpt.objects.filter(meeting__workspace=meeting.workspace_id).exclude(meeting=meeting)
        yield Texts(elsewhere, "title", Where.ELSEWHERE)
        yield Texts(Sequence.objects.filter(workspace=meeting.workspace_id), "title", Where.ELSEWHERE)

    def counts(self, struck: Struck) -> dict[str, int]:
        return {"excerpts": sum(struck.overlaps(one.start, one.end) for one in struck.meeting.excerpts.filter(removed_at=None))}

    def purge(self, struck: Struck) -> None:
        for excerpt in struck.meeting.excerpts.all():
            if struck.inside(excerpt.start, excerpt.end):
                excerpt.delete()
            elif struck.overlaps(excerpt.start, excerpt.end):  # it is cut anew from what is left, when it is next asked for
                excerpt.sound = ""
                excerpt.save(update_fields=["sound"])

    def let_go(self, meeting: Meeting) -> None:
        meeting.excerpts.all().delete()


register(_Excerpts())
