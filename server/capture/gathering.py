"""When everything of a capture has arrived, the work on it begins."""

from __future__ import annotations

from django.db.models import Count

from server.capture.models import Capture, Recording
from server.notify import Part, notify
from server.pipeline.work import begin_work


def gather_if_complete(capture: Capture) -> bool:
    """Queue the work, in the transaction that is open, when the capture was stopped and nothing is missing any more."""
    capture = Capture.objects.select_for_update(of=("self",)).select_related("meeting").get(pk=capture.pk)
    stretches = capture.stretches.annotate(arrived=Count("received"))
    if capture.stopped_at is None or any(s.chunks is None or not s.gathered and s.arrived < s.chunks for s in stretches):
        return False
    meeting = capture.meeting
    if meeting.stage_runs.exists():
        return True
    Recording.objects.get_or_create(
        meeting=meeting, defaults={"form": Recording.Form.CAPTURED, "name": meeting.title, "size": 0, "uploaded_by": meeting.created_by}
    )
    begin_work(meeting)
    notify(meeting.pk, Part.CAPTURE, Part.PROGRESS)
    return True
