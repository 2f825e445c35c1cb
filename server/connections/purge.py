"""What goes elsewhere is put together as it goes; here is kept where it lies, and what the other side answered, which may quote it."""

from __future__ import annotations

from collections.abc import Iterable

from server.connections.models import Delivery, FieldAnswer, Placed
from server.meetings.models import Meeting
from server.purging import Purger, Resting, Struck, Texts, register


class _Deliveries(Purger):
    def texts(self, meeting: Meeting) -> Iterable[Texts]:
        yield Texts(meeting.field_answers.filter(by_hand=True), "value")

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
