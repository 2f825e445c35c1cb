"""Work whose job is gone: its process was killed in the wrong moment, or it failed in a way that could not be written down."""

from __future__ import annotations

import logging
from datetime import timedelta

from django.db.models import Q
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from server.pipeline.models import RunState, StageRun
from server.pipeline.queries import OPEN
from server.pipeline.work import queue
from server.stages.tasks import fail

logger = logging.getLogger("server.pipeline")

_LIVE = ("todo", "doing")
_SETTLED = timedelta(seconds=30)


def rescue_stages() -> int:
    """Stages that no job will ever do: one that was running has failed, one that waited is queued again. Returns how many there were.

    A meeting's stages are done one after the other, so one live job of a meeting stands for all that wait.
    """
    at_work = ProcrastinateJob.objects.filter(task_name="stage", status__in=_LIVE).values_list("args__meeting_id", flat=True)
    before = timezone.now() - _SETTLED
    lost = StageRun.objects.filter(Q(started_at=None) | Q(started_at__lt=before), state__in=OPEN, meeting__removed_at=None)
    found = 0
    for run in lost.exclude(meeting__in=list(at_work)).select_related("meeting").order_by("meeting", "id"):
        if StageRun.objects.filter(meeting=run.meeting, state=RunState.FAILED).exists():
            continue
        found += 1
        logger.warning("stage %s of meeting %s has no job any more", run.stage, run.meeting_id)
        if run.state == RunState.RUNNING:
            fail(run, "The work stopped without a word. What was captured or given is kept; try again.")
        else:
            queue(run.meeting, run.stage)
    return found
