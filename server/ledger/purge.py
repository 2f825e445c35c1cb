"""Steps have no words of their own: they go with the lines they rest on, and where no step is left, so does the matter."""

from __future__ import annotations

from server.ledger.models import Matter, Step
from server.purging import Purger, Struck, register


class _Steps(Purger):
    def purge(self, struck: Struck) -> None:
        gone = Step.objects.filter(meeting=struck.meeting, lines__in=struck.touched)
        matters = list(gone.values_list("matter", flat=True))
        Step.objects.filter(pk__in=list(gone.values_list("pk", flat=True))).delete()
        Matter.objects.filter(pk__in=matters, steps=None).delete()


register(_Steps())
