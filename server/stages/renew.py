"""After a new version of the program: what is found by is worked out anew, meeting by meeting, while everything goes on."""

from __future__ import annotations

import time

from django.db import transaction

from server.acting import lock
from server.pipeline.models import RunState, StageRun
from server.stages.index import STAGE

_AT_A_TIME = 20.0  # seconds; the next minute goes on


def renew_indexes() -> int:
    """Those that an earlier version made, for so long at the most. Returns how many were made anew."""
    end, made = time.monotonic() + _AT_A_TIME, 0
    old = StageRun.objects.filter(stage=STAGE.name, state=RunState.DONE, meeting__removed_at=None).exclude(engine=STAGE.engine)
    for run in old.select_related("meeting").order_by("-meeting__started_at").iterator():
        found = STAGE.work(run.meeting, lambda done: None)
        with transaction.atomic():
            lock(run.meeting)
            # Where the meeting changes meanwhile, that makes it anew.
            still = StageRun.objects.select_for_update().filter(pk=run.pk, state=RunState.DONE, finished_at=run.finished_at)
            if still.exists():
                STAGE.keep(run.meeting, found)
                still.update(engine=STAGE.engine)
                made += 1
        if time.monotonic() > end:
            break
    return made
