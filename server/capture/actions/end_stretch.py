"""Off the record: a stretch of a capture ends."""

from __future__ import annotations

from django.db.models import Max

from server.accounts.models import Membership
from server.acting import acting
from server.capture.gathering import gather_if_complete
from server.capture.models import Capture, Stretch
from server.notify import Part
from server.problems import Refused


def end_stretch(membership: Membership, capture: Capture, number: int, chunks: int, reason: Stretch.End) -> Stretch:
    """Say how many chunks a stretch has; those still missing may follow. Idempotent. Raises Refused."""
    with acting(membership, None, "off the record", capture.meeting, tells=(Part.CAPTURE,), stretch=number, reason=reason) as act:
        Capture.objects.select_for_update().get(pk=capture.pk)
        stretch = Stretch.objects.filter(capture=capture, number=number).first()
        if stretch is None or stretch.user_id != membership.user_id:
            raise Refused(404, "There is no such stretch of this capture, or it is another device's.")
        if stretch.chunks == chunks:
            act.nothing()
            return stretch
        if stretch.chunks is not None:
            raise Refused(409, f"This stretch ended with {stretch.chunks} chunks already.")
        last = stretch.received.aggregate(last=Max("number"))["last"]
        if last is not None and last >= chunks:
            raise Refused(409, f"Chunk {last} of this stretch has arrived, so it cannot have ended with {chunks}.")
        stretch.chunks, stretch.ended_by = chunks, reason
        stretch.save(update_fields=["chunks", "ended_by"])
        gather_if_complete(capture)
    return stretch
