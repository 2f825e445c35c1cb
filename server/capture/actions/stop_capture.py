"""Stop a capture: what has arrived becomes the recording, as soon as all of it is there."""

from __future__ import annotations

from django.db.models import Max
from django.utils import timezone

from server.accounts.models import Membership
from server.acting import Act, acting
from server.capture.gathering import gather_if_complete
from server.capture.models import Capture, Stretch
from server.capture.queries import seconds_of
from server.notify import Part
from server.sharing.policy import Can


def stop_capture(membership: Membership | None, capture: Capture, *, without_the_rest: bool = False) -> Capture:
    """Stop. Idempotent. membership: None where the program does it, as at the end of a call.

    without_the_rest: the device that captured will not come back, so what has not arrived by now is given up; how much, is noted.
    """
    with acting(membership, Can.ADD, "stop capture", capture.meeting, tells=(Part.CAPTURE, Part.AGENDA)) as act:
        capture = Capture.objects.select_for_update(of=("self",)).select_related("meeting").get(pk=capture.pk)
        if capture.stopped_at is None:
            capture.stopped_at = timezone.now()
            capture.save(update_fields=["stopped_at"])
            _end_agenda(capture)
        elif not without_the_rest:
            act.nothing()
        if without_the_rest:
            _give_up_missing(act, capture)
        gather_if_complete(capture)
    return capture


def _end_agenda(capture: Capture) -> None:
    """The point that was being discussed took until now."""
    for point in capture.meeting.points.filter(running=True, begun_at__isnull=False):
        point.spent += max(0.0, seconds_of(capture) - (point.begun_at or 0.0))
        point.running = False
        point.save(update_fields=["spent", "running"])


def _give_up_missing(act: Act, capture: Capture) -> None:
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
        stretch.chunks, stretch.ended_by = len(arrived), stretch.ended_by or Stretch.End.CUT_OFF
        stretch.save(update_fields=["chunks", "ended_by"])
    act.note(seconds_given_up=given_up)
