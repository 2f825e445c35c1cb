"""Questions; answers are not kept."""

from __future__ import annotations

from collections.abc import Iterable

from server.ask.models import Question
from server.meetings.models import Meeting
from server.purging import Purger, Texts, Where, register


class _Questions(Purger):
    def texts(self, meeting: Meeting) -> Iterable[Texts]:
        yield Texts(meeting.questions.all(), "text")
        elsewhere = Question.objects.filter(meeting__workspace=meeting.workspace_id).exclude(meeting=meeting)
        yield Texts(elsewhere, "text", Where.ELSEWHERE)


register(_Questions())
