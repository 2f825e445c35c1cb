"""Stop a capture: what has arrived becomes the recording, as soon as all of it is there."""

from __future__ import annotations

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from server.accounts.models import Membership
from server.audit.log import log
from server.capture.gathering import gather_if_complete
from server.capture.models import Capture
from server.events import tell
from server.problems import not_allowed
from server.sharing.visibility import may_change


def stop_capture(membership: Membership, capture: Capture, *, without_the_rest: bool = False) -> Capture:
    """Stop. Idempotent.

    without_the_rest: the device that captured will not come back, so what has not arrived by now is given up; how much, is noted.
    """
    if not may_change(membership, capture.meeting):
        raise not_allowed("Guests do not capture. Ask a member to.")
    with transaction.atomic():
        capture = Capture.objects.select_for_update().select_related("meeting").get(pk=capture.pk)
        if capture.stopped_at is None:
            capture.stopped_at = timezone.now()
            capture.save(update_fields=["stopped_at"])
            log(membership.workspace, membership.user, "stop capture", capture.meeting)
            tell(capture.meeting_id, "capture")
        if without_the_rest:
            _give_up_missing(membership, capture)
        gather_if_complete(capture)
    return capture


def _give_up_missing(membership: Membership, capture: Capture) -> None:
    given_up = 0
    for stretch in capture.stretches.filter(gathered=False):
        arrived = set(stretch.received.values_list("number", flat=True))
        end = stretch.chunks if stretch.chunks is not None else (stretch.received.aggregate(last=Max("number"))["last"] or -1) + 1
        missing = [number for number in range(end) if number not in arrived]
        if stretch.chunks is not None and not missing:
            continue
        given_up += len(missing)
        # What is there is numbered anew, so that the gathering finds a whole stretch.
        for new, chunk in enumerate(stretch.received.order_by("number").only("pk", "number")):
            if chunk.number != new:
                stretch.received.filter(pk=chunk.pk).update(number=new)
        stretch.chunks, stretch.ended_by = len(arrived), stretch.ended_by or "cut off"
        stretch.save(update_fields=["chunks", "ended_by"])
    if given_up:
        log(membership.workspace, membership.user, "give up missing sound", capture.meeting, seconds=given_up)
