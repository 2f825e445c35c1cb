"""On the record: a stretch of a capture begins."""

from __future__ import annotations

from datetime import datetime, timedelta

from django.db import transaction
from django.utils import timezone

from server.accounts.models import Membership
from server.audit.log import log
from server.capture.models import Capture, Stretch
from server.capture.queries import not_agreed
from server.events import tell
from server.pipeline.live import listen_to
from server.problems import Refused, not_allowed
from server.sharing.visibility import may_change

TRACKS = ("room", "computer")
"""What a track may be: the microphone in the room, the sound of the computer or of one of its tabs."""
_SILENT = timedelta(seconds=30)


def open_stretch(membership: Membership, capture: Capture, number: int, tracks: list[str], begun_at: datetime) -> Stretch:
    """Open stretch `number`. Idempotent. Raises Refused while another device captures the same meeting, or consent is missing."""
    if not may_change(membership, capture.meeting):
        raise not_allowed("Guests do not capture. Ask a member to.")
    if not tracks or len(set(tracks)) != len(tracks) or not set(tracks) <= set(TRACKS):
        raise Refused(422, f"A stretch has one or both of the tracks {', '.join(TRACKS)}.")
    with transaction.atomic():
        capture = Capture.objects.select_for_update().select_related("meeting__workspace").get(pk=capture.pk)
        known = capture.stretches.filter(number=number).first()
        if known:
            if known.user_id != membership.user_id:
                raise _elsewhere()
            return known
        if capture.stopped_at:
            raise Refused(409, "This capture was stopped. Go on with it first.")
        open_ones = capture.stretches.filter(chunks=None)
        if any(_goes_on(stretch) for stretch in open_ones):
            raise _elsewhere()
        if membership.workspace.consent_of_all and (missing := not_agreed(capture.meeting)):
            raise Refused(
                409,
                f"This workspace captures only when all agree. Still to agree: {', '.join(missing)}. Show them the notice, or note what they said.",
                missing=missing,
            )
        # A clock on the device may be wrong; the future is not when anything began.
        stretch = Stretch.objects.create(
            capture=capture, number=number, user=membership.user, tracks=tracks, begun_at=min(begun_at, timezone.now())
        )
        listen_to(capture)
        log(membership.workspace, membership.user, "on the record", capture.meeting, stretch=number)
        tell(capture.meeting_id, "capture")
    return stretch


def _goes_on(stretch: Stretch) -> bool:
    last = stretch.received.order_by("-arrived_at").values_list("arrived_at", flat=True).first() or stretch.begun_at
    return timezone.now() - last < _SILENT


def _elsewhere() -> Refused:
    return Refused(409, "This meeting is being captured on another device or in another tab. Stop it there first.", elsewhere=True)
