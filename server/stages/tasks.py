"""Durable work: one job a stage, on Procrastinate, each queued in the transaction that makes it necessary."""

from __future__ import annotations

import errno
import logging
from functools import partial
from itertools import takewhile

from django.conf import settings
from django.db import close_old_connections, transaction
from django.db.models import F
from django.utils import timezone
from procrastinate import JobContext, RetryStrategy
from procrastinate.contrib.django import app
from psycopg.errors import DiskFull

from core.problems import InputProblem
from server.acting import lock
from server.languages import translated
from server.mail.post import post
from server.mail.wording import Kind
from server.meetings.models import Meeting
from server.notify import Part, notify
from server.pipeline.models import RunState, StageRun
from server.pipeline.work import STAGES, Outdated, Queue, Report, Stage, fresh_connections, now_and_then, queue, stages_of
from server.problems import AWAY
from server.stages.renew import renew_indexes

logger = logging.getLogger("server.pipeline")

MOST_ATTEMPTS = 8
"""Times that a stage is taken up without coming to an end: what ends its worker every time is not given to a ninth."""
_REPORT_EVERY = 0.7  # seconds


@app.task(
    name="stage", pass_context=True, retry=RetryStrategy(max_attempts=MOST_ATTEMPTS - 1, wait=3, retry_exceptions=set(AWAY))
)
def run_stage(context: JobContext, meeting_id: str, stage: str) -> None:
    """Do one stage of the work on a meeting. Idempotent: what is done is passed over, what was cut off goes on from its last checkpoint."""
    close_old_connections()
    try:
        run(meeting_id, STAGES[stage])
    except AWAY as error:
        # A restart, a network: no fault of the recording. The job waits and starts again.
        if context.job.attempts >= MOST_ATTEMPTS - 1:
            logger.exception("stage %s of meeting %s", stage, meeting_id)
            close_old_connections()
            fail(StageRun.objects.get(meeting_id=meeting_id, stage=stage), _why(STAGES[stage], error))
        raise
    finally:
        close_old_connections()


def run(meeting_id: str, stage: Stage) -> None:
    """Do a stage, here and now. Raises only what says that the database is away."""
    meeting = Meeting.objects.select_related("recording", "created_by").filter(pk=meeting_id, removed_at=None).first()
    if meeting is None:
        return
    run, _ = StageRun.objects.get_or_create(meeting=meeting, stage=stage.name)
    if run.state == RunState.DONE:
        with transaction.atomic():
            _queue_next(meeting, stage)
        return
    if _is_early(meeting, stage):
        return  # a change has begun the work anew further ahead; this stage is queued again when its turn has come
    StageRun.objects.filter(pk=run.pk).update(
        state=RunState.RUNNING, engine=stage.engine, started_at=timezone.now(), attempts=F("attempts") + 1
    )
    run.refresh_from_db()
    if run.attempts > MOST_ATTEMPTS:
        fail(run, f"While {stage.words}, the worker ended {MOST_ATTEMPTS} times without a word. Tell whoever runs this server.")
        return
    try:
        result = stage.work(meeting, _reporter(run))
        with transaction.atomic():
            lock(meeting)
            # A change that came meanwhile has asked for this stage anew. What was made of the record before it is old, and may hold what
            # has been struck since: it is let go, and the queued job does it again.
            current = StageRun.objects.select_for_update().filter(pk=run.pk, state=RunState.RUNNING)
            if not current.exists():
                return
            handed_on = stage.keep(meeting, result)
            current.update(state=RunState.DONE, progress=1.0, finished_at=timezone.now(), result=handed_on, attempts=0)
            _queue_next(meeting, stage)
            notify(meeting.pk, Part.PROGRESS, *stage.new)
    except Outdated:
        return
    except AWAY as error:
        if not isinstance(error.__cause__, DiskFull):
            raise
        logger.exception("stage %s of meeting %s", stage.name, meeting_id)
        fail(run, _why(stage, error))
    except Exception as error:
        if not isinstance(error, InputProblem):
            logger.exception("stage %s of meeting %s", stage.name, meeting_id)
        fail(run, _why(stage, error))


def _why(stage: Stage, error: Exception) -> str:
    """What is said of a stage that failed, and what to do."""
    if isinstance(error, InputProblem):
        return str(error)
    if isinstance(error.__cause__, DiskFull) or isinstance(error, OSError) and error.errno in (errno.ENOSPC, errno.EDQUOT):
        return f"The disk was full while {stage.words}. What was captured or given is kept; make room, then try again."
    if isinstance(error, AWAY):
        return f"The database did not answer while {stage.words}. What was captured or given is kept; try again."
    if isinstance(error, OSError):
        said = error.strerror or "a file could not be read or written"
        return f"While {stage.words}: {said}. What was captured or given is kept; mend that, then try again."
    return (
        f"Something went wrong while {stage.words}. What was captured or given is kept; try again, and if it fails again, "
        "tell whoever runs this server."
    )


def _is_early(meeting: Meeting, stage: Stage) -> bool:
    """Is a stage before it still to be done?"""
    before = takewhile(lambda name: name != stage.name, STAGES)
    return StageRun.objects.filter(meeting=meeting, stage__in=list(before)).exclude(state=RunState.DONE).exists()


def _queue_next(meeting: Meeting, stage: Stage) -> None:
    """Queue the next stage that is not done."""
    order = list(STAGES)
    names = [name for name in stages_of(meeting.recording) if order.index(name) > order.index(stage.name)]
    done = set(StageRun.objects.filter(meeting=meeting, state=RunState.DONE).values_list("stage", flat=True))
    following = next((name for name in names if name not in done), None)
    if following:
        queue(meeting, following)


def _reporter(run: StageRun) -> Report:
    def report(progress: float) -> None:
        StageRun.objects.filter(pk=run.pk).update(progress=min(progress, 1.0))
        notify(run.meeting_id, Part.PROGRESS)

    return now_and_then(report, _REPORT_EVERY)


def fail(run: StageRun, message: str) -> None:
    """A stage has come to a bad end, which is kept, and told by mail to whoever made the meeting."""
    with transaction.atomic():
        failed = StageRun.objects.filter(pk=run.pk, state=RunState.RUNNING)
        if not failed.update(state=RunState.FAILED, message=message, finished_at=timezone.now(), attempts=0):
            return
        notify(run.meeting_id, Part.PROGRESS)
        meeting = Meeting.objects.select_related("created_by", "workspace").get(pk=run.meeting_id)
        if meeting.created_by:
            link = f"{settings.BASE_URL}/meetings/{meeting.pk}"
            post(Kind.FAILED, meeting.created_by.email, meeting=meeting, link=link, why=partial(translated, message))


@app.periodic(cron="* * * * *")
@app.task(name="renew indexes", queue=Queue.WRITING, queueing_lock="renew indexes", lock="renew indexes")
def renew_old_indexes(timestamp: int) -> None:
    """Every minute, with the worker that can wait: what an earlier version of the program found meetings by."""
    with fresh_connections():
        renew_indexes()
