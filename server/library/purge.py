"""Searches that ask for what is struck."""

from __future__ import annotations

from collections.abc import Iterable

from server.library.models import KeptSearch
from server.meetings.models import Meeting
from server.purging import Purger, Texts, Where, register


class _Library(Purger):
    def texts(self, meeting: Meeting) -> Iterable[Texts]:
        kept = KeptSearch.objects.filter(membership__workspace=meeting.workspace_id)
        yield Texts(kept, "words", Where.ELSEWHERE, whole=True)
        yield Texts(kept, "name", Where.ELSEWHERE, unique=True)


register(_Library())
