"""Searches and questions that ask for what is struck; what it was about, and its words."""

from __future__ import annotations

from collections.abc import Iterable

from server.library.models import Inquiry, KeptSearch, Sense
from server.library.vocabulary import forget_words
from server.meetings.models import Meeting
from server.purging import Purger, Struck, Texts, Where, register


class _Library(Purger):
    def texts(self, meeting: Meeting) -> Iterable[Texts]:
        kept = KeptSearch.objects.filter(membership__workspace=meeting.workspace_id)
        yield Texts(kept, "words", Where.ELSEWHERE, whole=True)
        yield Texts(kept, "name", Where.ELSEWHERE, unique=True)
        yield Texts(Inquiry.objects.filter(membership__workspace=meeting.workspace_id), "text", Where.ELSEWHERE, whole=True)

    def purge(self, struck: Struck) -> None:
        Sense.objects.filter(turn__lines__in=struck.touched).delete()
        forget_words((" ".join(run) for run in struck.cut.runs), struck.touched)


register(_Library())
