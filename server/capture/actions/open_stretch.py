"""On the record: a stretch of a capture begins."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta

from django.utils import timezone

from server.accounts.models import Membership
from server.acting import acting
from server.capture.live import listen_to
from server.capture.models import Capture, Stretch
from server.capture.queries import not_agreed
from server.notify import Part
from server.problems import Refused
from server.sharing.policy import Can

_SILENT = timedelta(seconds=30)


def open_stretch(membership: Membership, capture: Capture, number: int, tracks: Sequence[str], begun_at: datetime) -> Stretch:
    """Open stretch `number`. Idempotent. Raises Refused while another device captures the same meeting, or consent is missing."""
    if not tracks or len(set(tracks)) != len(tracks):
        raise Refused(422, f"A stretch has one or both of the tracks {', '.join(Stretch.Track)}.")
    with acting(membership, Can.ADD, "on the record", capture.meeting, tells=(Part.CAPTURE,), stretch=number) as act:
        capture = Capture.objects.select_for_update(of=("self",)).select_related("meeting__workspace").get(pk=capture.pk)
        known = capture.stretches.filter(number=number).first()
        if known:
            if known.user_id != membership.user_id:
                raise _elsewhere()
            act.nothing()
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
            capture=capture, number=number, user=membership.user, tracks=list(tracks), begun_at=min(begun_at, timezone.now())
        )
        listen_to(capture)
    return stretch


def _goes_on(stretch: Stretch) -> bool:
    last = stretch.received.order_by("-arrived_at").values_list("arrived_at", flat=True).first() or stretch.begun_at
    return timezone.now() - last < _SILENT


def _elsewhere() -> Refused:
    return Refused(409, "This meeting is being captured on another device or in another tab. Stop it there first.", elsewhere=True)
