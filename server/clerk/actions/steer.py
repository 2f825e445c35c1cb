"""Off the record and on again, and away: what is asked of a clerk that is there."""

from __future__ import annotations

from datetime import timedelta

from django.utils import timezone

from core.media.chunks import CAPTURE_RATE, CHUNK
from core.planning.attending import Standing
from server.accounts.models import Membership
from server.acting import acting
from server.capture.actions.strike_back import Piece, strike_back
from server.clerk.models import Visit
from server.notify import Part
from server.problems import Refused
from server.sharing.policy import Can


def go_off(membership: Membership, visit: Visit) -> None:
    """Nothing that is said from this moment on is kept, though the clerk learns of it a little later. Idempotent. Raises Refused."""
    with acting(membership, Can.ADD, "clerk off the record", visit.meeting, tells=(Part.CAPTURE,)) as act:
        locked = _locked(visit)
        if locked.paused:
            act.nothing()
            return
        locked.paused, locked.off_at, locked.paused_by = True, timezone.now(), membership.user.called
        locked.save(update_fields=["paused", "off_at", "paused_by"])


def go_on_again(membership: Membership, visit: Visit) -> None:
    """On the record again, as soon as the clerk has told everybody. Idempotent. Raises Refused."""
    with acting(membership, Can.ADD, "clerk on the record", visit.meeting, tells=(Part.CAPTURE,)) as act:
        locked = _locked(visit)
        if not locked.paused:
            act.nothing()
            return
        if locked.state != Standing.OFF and locked.off_at and locked.state in (Standing.ON, Standing.WAITING):
            raise Refused(409, "The clerk is just going off the record. Press again in a moment.")
        locked.paused, locked.paused_by = False, membership.user.called
        locked.save(update_fields=["paused", "paused_by"])


def strike_lately(membership: Membership, visit: Visit, minutes: int) -> float:
    """Strike the last minutes from what is taken, for good, also what is still on its way here. Returns the seconds struck. Raises Refused."""
    if visit.meeting is None or visit.over:
        raise Refused(409, "Nothing is being taken down just now. What is in the record can be struck there.")
    now = timezone.now()
    parts = []
    for stretch in visit.meeting.capture.stretches.filter(gathered=False):
        first = round((now - timedelta(minutes=minutes) - stretch.begun_at).total_seconds() * CAPTURE_RATE)
        end = round((now - stretch.begun_at).total_seconds() * CAPTURE_RATE) if stretch.chunks is None else stretch.chunks * CHUNK
        if max(0, first) < end:
            parts.append(Piece(stretch.number, max(0, first), end))
    if not parts:
        raise Refused(409, "Nothing was on the record in these minutes.")
    return strike_back(membership, visit.meeting.capture, parts)


def send_away(membership: Membership, visit: Visit) -> None:
    """It leaves, from wherever it stands; what was taken is kept. Idempotent. Raises Refused."""
    with acting(membership, Can.ADD, "send clerk away", visit.meeting, tells=(Part.CAPTURE,) if visit.meeting else ()) as act:
        locked = _locked(visit)
        if locked.away_by:
            act.nothing()
            return
        locked.away_by = membership.user.called
        # One that nobody attends to yet leaves when its time comes: at once.
        locked.starts_at = min(locked.starts_at, timezone.now())
        locked.save(update_fields=["away_by", "starts_at"])


def _locked(visit: Visit) -> Visit:
    locked = Visit.objects.select_for_update(no_key=True, of=("self",)).get(pk=visit.pk)
    if locked.over:
        raise Refused(409, "The clerk is not there any more. Send it again, if the call still runs.")
    return locked
