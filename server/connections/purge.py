"""What goes elsewhere is put together as it goes; here is kept where it lies, and what the other side answered, which may quote it."""

from __future__ import annotations

from collections.abc import Iterable

from server.connections.models import Delivery, FieldAnswer, FieldQuestion, Known, Placed, Rule, Thread
from server.meetings.models import Meeting
from server.purging import Purger, Resting, Struck, Texts, Where, register


class _Deliveries(Purger):
    def texts(self, meeting: Meeting) -> Iterable[Texts]:
        yield Texts(meeting.field_answers.filter(by_hand=True), "value")
        here = {"connection__workspace": meeting.workspace_id}
        yield Texts(Known.objects.filter(**here), "what", Where.ELSEWHERE, whole=True)
        yield Texts(FieldQuestion.objects.filter(**here), "question", Where.ELSEWHERE)
        for rows in (Delivery.objects, Placed.objects, Rule.objects):
            yield Texts(rows.filter(**here).exclude(target_name=""), "target_name", Where.ELSEWHERE)
        for field in ("room_name", "messages", "drawn"):
            yield Texts(Thread.objects.filter(**here), field, Where.ELSEWHERE)

    def resting(self, struck: Struck) -> Iterable[Resting]:
        for row in FieldAnswer.objects.filter(meeting=struck.meeting).prefetch_related("lines"):
            rests = any(line.pk in struck.touched for line in row.lines.all())
            if rests or not row.by_hand and struck.quotes.blanked(row.value) != row.value:
                yield Resting(row, "answer", row.value, row.by_hand)

    def counts(self, struck: Struck) -> dict[str, int]:
        return {"placed": Placed.objects.filter(meeting=struck.meeting, gone_at=None).exclude(remote="").count()}

    def purge(self, struck: Struck) -> None:
        self._forget(struck.meeting)

    def let_go(self, meeting: Meeting) -> None:
        self._forget(meeting)

    def _forget(self, meeting: Meeting) -> None:
        """What lies elsewhere is sent anew, or taken back; here nothing is left that tells what it was."""
        Placed.objects.filter(meeting=meeting, gone_at=None).exclude(remote="").update(struck=True, digest="", left="")
        Delivery.objects.filter(meeting=meeting).update(said="")


register(_Deliveries())
