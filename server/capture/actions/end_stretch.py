"""Off the record: a stretch of a capture ends."""

from __future__ import annotations

from django.db import transaction
from django.db.models import Max

from server.accounts.models import Membership
from server.audit.log import log
from server.capture.gathering import gather_if_complete
from server.capture.models import Capture, Stretch
from server.events import tell
from server.problems import Refused

REASONS = ("pause", "stop", "sleep", "unplugged", "cut off")
"""Why a stretch ended: asked to; the device slept; the microphone was gone; the page or the device died."""


def end_stretch(membership: Membership, capture: Capture, number: int, chunks: int, reason: str) -> Stretch:
    """Say how many chunks a stretch has; those still missing may follow. Idempotent. Raises Refused."""
    if reason not in REASONS:
        raise Refused(422, f"A stretch ends by one of: {', '.join(REASONS)}.")
    with transaction.atomic():
        Capture.objects.select_for_update().get(pk=capture.pk)
        stretch = Stretch.objects.filter(capture=capture, number=number).first()
        if stretch is None or stretch.user_id != membership.user_id:
            raise Refused(404, "There is no such stretch of this capture, or it is another device's.")
        if stretch.chunks == chunks:
            return stretch
        if stretch.chunks is not None:
            raise Refused(409, f"This stretch ended with {stretch.chunks} chunks already.")
        last = stretch.received.aggregate(last=Max("number"))["last"]
        if last is not None and last >= chunks:
            raise Refused(409, f"Chunk {last} of this stretch has arrived, so it cannot have ended with {chunks}.")
        stretch.chunks, stretch.ended_by = chunks, reason
        stretch.save(update_fields=["chunks", "ended_by"])
        log(membership.workspace, membership.user, "off the record", capture.meeting, stretch=number, reason=reason)
        tell(capture.meeting_id, "capture")
        gather_if_complete(capture)
    return stretch
