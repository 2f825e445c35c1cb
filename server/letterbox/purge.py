"""Addresses from which mail counts as a member's: one of somebody who is erased goes."""

from __future__ import annotations

from collections.abc import Iterable

from server.letterbox.models import Sender
from server.meetings.models import Meeting
from server.purging import Purger, Texts, Where, register


class _Senders(Purger):
    def texts(self, meeting: Meeting) -> Iterable[Texts]:
        yield Texts(Sender.objects.filter(membership__workspace=meeting.workspace_id), "address", Where.ELSEWHERE, whole=True)


register(_Senders())
