"""Durable work: one job a stage, on Procrastinate, each queued in the transaction that makes it necessary."""

from __future__ import annotations

import logging
import time
from contextlib import suppress

from django.db import InterfaceError, OperationalError, close_old_connections, transaction
from django.utils import timezone
from procrastinate import RetryStrategy
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

from core.problems import InputProblem
from server.events import tell
from server.meetings.models import Meeting
from server.pipeline.models import StageRun
from server.pipeline.stages import BY_NAME, Stage, stages_of

logger = logging.getLogger("server.pipeline")

# The database going away (a restart, a network) is no fault of the recording: the job waits and starts again.
DATABASE_AWAY = (OperationalError, InterfaceError)
_REPORT_EVERY = 0.7  # seconds
# What a stage makes new in a meeting, for those who look at it.
NEW_AFTER = {"assemble": ("record",), "minutes": ("minutes",), "index": ("meeting",), "tell": ("meeting",)}


def queue(meeting: Meeting, stage: str) -> None:
    """Queue a stage, in the transaction that is open. A stage that waits already is not queued twice."""
    with suppress(AlreadyEnqueued), transaction.atomic():
        run_stage.configure(queue=BY_NAME[stage].queue, lock=f"meeting-{meeting.pk}", queueing_lock=f"{stage}-{meeting.pk}").defer(
            meeting_id=str(meeting.pk), stage=stage
        )


def begin(meeting: Meeting, stages: tuple[str, ...]) -> None:
    """(Re)start the given stages of a meeting, the first of them now, in the transaction that is open."""
    for stage in stages:
        StageRun.objects.update_or_create(
            meeting=meeting,
            stage=stage,
            defaults={"state": StageRun.State.WAITING, "progress": 0.0, "message": "", "started_at": None, "finished_at": None},
        )
    queue(meeting, stages[0])


@app.task(name="stage", retry=RetryStrategy(max_attempts=8, wait=3, retry_exceptions=set(DATABASE_AWAY)))
def run_stage(meeting_id: str, stage: str) -> None:
    """Do one stage of the work on a meeting. Idempotent: what is done is passed over, what was cut off goes on from its last checkpoint."""
    close_old_connections()
    try:
        _run(meeting_id, BY_NAME[stage])
    finally:
        close_old_connections()


def _run(meeting_id: str, stage: Stage) -> None:
    meeting = Meeting.objects.select_related("recording", "created_by").filter(pk=meeting_id, removed_at=None).first()
    if meeting is None:
        return
    run, _ = StageRun.objects.get_or_create(meeting=meeting, stage=stage.name)
    if run.state == StageRun.State.DONE:
        with transaction.atomic():
            _queue_next(meeting, stage)
        return
    run.state, run.engine, run.started_at = StageRun.State.RUNNING, stage.engine, timezone.now()
    run.save(update_fields=["state", "engine", "started_at"])
    try:
        result = stage.work(meeting, _reporter(run))
        with transaction.atomic():
            # A change that came meanwhile has asked for this stage anew. What was made of the record before it is old, and may hold what
            # has been struck since: it is let go, and the queued job does it again.
            current = StageRun.objects.select_for_update().filter(pk=run.pk, state=StageRun.State.RUNNING)
            if not current.exists():
                return
            handed_on = stage.keep(meeting, result)
            current.update(state=StageRun.State.DONE, progress=1.0, finished_at=timezone.now(), result=handed_on)
            _queue_next(meeting, stage)
            tell(meeting.pk, "progress", *NEW_AFTER.get(stage.name, ()))
    except DATABASE_AWAY:
        raise
    except InputProblem as problem:
        _fail(run, str(problem))
    except OSError as error:
        logger.exception("stage %s of meeting %s", stage.name, meeting_id)
        _fail(
            run,
            f"While {stage.words}: {error.strerror or 'a file could not be read or written'}. The recording is kept; make room or mend the disk, then try again.",
        )
    except Exception:
        logger.exception("stage %s of meeting %s", stage.name, meeting_id)
        _fail(
            run,
            f"Something went wrong while {stage.words}. The recording is kept; try again, and if it fails again, tell whoever runs this server.",
        )


def _queue_next(meeting: Meeting, stage: Stage) -> None:
    """Queue the next stage that is not done."""
    order = list(BY_NAME)
    names = [name for name in stages_of(meeting.recording) if order.index(name) > order.index(stage.name)]
    done = set(StageRun.objects.filter(meeting=meeting, state=StageRun.State.DONE).values_list("stage", flat=True))
    following = next((name for name in names if name not in done), None)
    if following:
        queue(meeting, following)


def _reporter(run: StageRun):
    last = time.monotonic()

    def report(progress: float) -> None:
        nonlocal last
        if time.monotonic() - last >= _REPORT_EVERY:
            last = time.monotonic()
            StageRun.objects.filter(pk=run.pk).update(progress=min(progress, 1.0))
            tell(run.meeting_id, "progress")

    return report


def _fail(run: StageRun, message: str) -> None:
    StageRun.objects.filter(pk=run.pk, state=StageRun.State.RUNNING).update(
        state=StageRun.State.FAILED, message=message, finished_at=timezone.now()
    )
    tell(run.meeting_id, "progress")
