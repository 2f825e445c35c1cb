"""What the work on a meeting consists of, and queueing it. The stages themselves register here (`server.stages`)."""

from __future__ import annotations

import asyncio
import time
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from enum import StrEnum
from typing import Any, TypeVar

from django.db import close_old_connections, transaction
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

from server.meetings.models import Meeting
from server.notify import Part
from server.pipeline.models import RunState, StageRun

Answered = TypeVar("Answered")
_threads = ThreadPoolExecutor(16, thread_name_prefix="database")
Report = Callable[[float], None]
"""Tells how much of a stage is done, 0 to 1."""


class Queue(StrEnum):
    """Where jobs wait. A worker serves all of them but those of APART, unless it is told which."""

    INTAKE = "intake"
    HEARING = "hearing"
    READING = "reading"
    MAIL = "mail"
    LIVE = "live"
    WRITING = "writing"
    CALENDARS = "calendars"


APART = (Queue.LIVE, Queue.WRITING)
"""Those that have a worker of their own: the one lasts as long as a meeting, the other can wait for all else."""


def now_and_then(report: Report, every: float) -> Report:
    """Hands on how much is done, but not before `every` seconds have gone by since the last time."""
    last = time.monotonic()

    def told(done: float) -> None:
        nonlocal last
        if time.monotonic() - last >= every:
            last = time.monotonic()
            report(done)

    return told


@contextmanager
def fresh_connections() -> Iterator[None]:
    """For a job: no connection to the database that an earlier one has left, and none that it leaves itself."""
    close_old_connections()
    try:
        yield
    finally:
        close_old_connections()


async def kept(do: Callable[..., Answered], *given: Any) -> Answered:
    """Do something with the database, on a thread, for a process that lives in a loop. Raises what it raises."""

    def call() -> Answered:
        with fresh_connections():
            return do(*given)

    return await asyncio.get_running_loop().run_in_executor(_threads, call)


class Change(StrEnum):
    """What happens to a record after it was made, or to its place among others, so that stages are done again."""

    RECORD = "record"
    SERIES = "series"
    STRIKE = "strike"


OF_RECORD = frozenset({Change.RECORD, Change.STRIKE})
"""After these the record says something else."""


class Outdated(Exception):
    """A stage need not go on: what it works from has changed, and it is done again."""


def _always(recording: Any) -> bool:
    return True


@dataclass(frozen=True)
class Stage:
    """One stage of the work on a meeting: `work` (long, outside any transaction, may be cut off at any moment) computes, `keep` (short,
    inside the transaction that also marks the stage done and queues the next) stores; what `keep` returns is handed on to later stages.

    words: what is going on, for people. engine: its version. rate: seconds of work a second of sound takes (target machine), until this
    server has measured its own. forms: of which recordings (`Recording.Form`). new: the parts of a meeting that are new after it.
    again: the changes after which it is done again. makes_record: until it is done there is no record to change. applies: whether a
    recording of its forms goes through it. behind: the meeting is ready without it, and what it makes comes as a change.
    """

    name: str
    words: str
    engine: str
    queue: Queue
    work: Callable[[Meeting, Report], Any]
    keep: Callable[[Meeting, Any], dict | None]
    rate: float
    forms: frozenset[str]
    new: tuple[Part, ...] = ()
    again: frozenset[Change] = frozenset()
    makes_record: bool = False
    applies: Callable[[Any], bool] = _always
    behind: bool = False


STAGES: dict[str, Stage] = {}
"""Name → stage, in the order of the work."""


def register(stages: Iterable[Stage]) -> None:
    """Put stages in their order behind those there are."""
    STAGES.update({stage.name: stage for stage in stages})


def stages_of(recording: Any) -> tuple[str, ...]:
    """The names of the stages that a recording goes through, in order."""
    return tuple(name for name, stage in STAGES.items() if recording.form in stage.forms and stage.applies(recording))


def stages_after(recording: Any, change: Change) -> tuple[str, ...]:
    """The names of the stages that are done again after a change, in order."""
    return tuple(name for name in stages_of(recording) if change in STAGES[name].again)


def queue(meeting: Meeting, stage: str) -> None:
    """Queue a stage, in the transaction that is open. A stage that waits already is not queued twice."""
    with suppress(AlreadyEnqueued), transaction.atomic():
        app.configure_task(
            "stage", queue=STAGES[stage].queue, lock=f"meeting-{meeting.pk}", queueing_lock=f"{stage}-{meeting.pk}"
        ).defer(meeting_id=str(meeting.pk), stage=stage)


def begin(meeting: Meeting, stages: Iterable[str]) -> None:
    """(Re)start the given stages of a meeting, the first of them now, in the transaction that is open."""
    if meeting.record_gone_at:
        return  # there is nothing to be read any more, and what was drawn stays as it is
    names = list(stages)
    fresh = {"state": RunState.WAITING, "progress": 0.0, "message": "", "started_at": None, "finished_at": None, "attempts": 0}
    for name in names:
        StageRun.objects.update_or_create(meeting=meeting, stage=name, defaults=fresh)
    queue(meeting, names[0])


def begin_work(meeting: Meeting) -> None:
    """Start all the work on a meeting whose recording is there."""
    begin(meeting, stages_of(meeting.recording))


def begin_after(meeting: Meeting, change: Change) -> None:
    """Do again what rests on what has changed."""
    begin(meeting, stages_after(meeting.recording, change))
