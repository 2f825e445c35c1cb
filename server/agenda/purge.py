"""Points of agendas, and the agendas that are kept."""

from __future__ import annotations

from collections.abc import Iterable

from server.agenda.models import AgendaTemplate, Point
from server.meetings.models import Meeting, Usual
from server.purging import Purger, Texts, Where, register


class _Agenda(Purger):
    def texts(self, meeting: Meeting) -> Iterable[Texts]:
        yield Texts(meeting.points.all(), "text")
        elsewhere = Point.objects.filter(meeting__workspace=meeting.workspace_id).exclude(meeting=meeting)
        yield Texts(elsewhere, "text", Where.ELSEWHERE)
        kept = AgendaTemplate.objects.filter(workspace=meeting.workspace_id)
        yield Texts(kept, "name", Where.ELSEWHERE, unique=True)
        yield Texts(kept, "points", Where.ELSEWHERE)
        yield Texts(Usual.objects.filter(series__workspace=meeting.workspace_id), "points", Where.ELSEWHERE)


register(_Agenda())
