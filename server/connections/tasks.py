"""The jobs: seeing what has to go, each delivery, and asking what is new elsewhere."""

from __future__ import annotations

from contextlib import suppress
from datetime import timedelta
from uuid import UUID

from django.db import transaction
from django.utils import timezone
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued
from procrastinate.jobs import Job
from procrastinate.retry import BaseRetryStrategy, RetryDecision

from core.problems import InputProblem
from server.connections.deliver import Later, attempt
from server.connections.fields import fill
from server.connections.kinds import KINDS
from server.connections.kinds.base import Target
from server.connections.models import Connection, Heard
from server.connections.queries import open_kind
from server.connections.rules import settle
from server.connections.taking import take
from server.connections.threads import let_go_of_old, read_now
from server.outward import later
from server.pipeline.work import Queue, fresh_connections
from server.problems import AWAY

EVERY = timedelta(minutes=2)
"""Between two questions to another side what is new there; it tells of itself as well, where it can."""
_KEPT = timedelta(days=8)
_MOST_TRIES = 40


class Pauses(BaseRetryStrategy):
    """As long as the delivery says; where the database is away, some seconds."""

    def get_retry_decision(self, *, exception: BaseException, job: Job) -> RetryDecision | None:
        """None where there is nothing to wait for."""
        if isinstance(exception, Later):
            return RetryDecision(retry_in={"seconds": round(exception.after) or 1})
        return RetryDecision(retry_in={"seconds": 5}) if isinstance(exception, AWAY) and job.attempts < _MOST_TRIES else None


@app.task(name="see what goes", queue=Queue.MAIL, retry=Pauses())
def see_what_goes(meeting_id: str) -> None:
    """Of one meeting."""
    with fresh_connections():
        settle(UUID(meeting_id))


@app.task(name="deliver", queue=Queue.MAIL, retry=Pauses())
def deliver(delivery_id: str) -> None:
    """One delivery."""
    with fresh_connections():
        attempt(UUID(delivery_id))


@app.task(name="fill fields", queue=Queue.READING, retry=Pauses())
def fill_fields(connection_id: str, meeting_id: str, target: str, target_name: str) -> None:
    """Of one place there, by one meeting."""
    with fresh_connections():
        fill(UUID(connection_id), UUID(meeting_id), Target(target, target_name))


@app.task(name="read thread", queue=Queue.READING, retry=Pauses())
def read_a_thread(thread_id: str) -> None:
    """One that was asked for."""
    with fresh_connections():
        read_now(UUID(thread_id))


@app.periodic(cron="* * * * *")
@app.task(name="ask connections", queue=Queue.CALENDARS, queueing_lock="connections")
def ask_connections(timestamp: int) -> None:
    """Queue those whose time has come, and let go of what need not be known any more."""
    with fresh_connections():
        let_go_of_old()
        Heard.objects.filter(at__lt=timezone.now() - _KEPT).delete()
        giving = [name for name, kind in KINDS.items() if kind.gives]
        for connection in Connection.objects.filter(dropped_at=None, kind__in=giving, next_at__lte=timezone.now()).order_by("next_at")[:500]:
            with suppress(AlreadyEnqueued), transaction.atomic():
                ask_connection.configure(queueing_lock=f"connection-{connection.pk}").defer(connection_id=str(connection.pk))


@app.task(name="ask connection", queue=Queue.CALENDARS)
def ask_connection(connection_id: str) -> None:
    """Ask one what is new there."""
    with fresh_connections():
        ask(UUID(connection_id))


def ask(key: UUID) -> None:
    """Here and now. What is in the way is said of the connection, and tried again, later each time."""
    connection = Connection.objects.select_related("workspace", "membership__user", "membership__workspace", "made_by__user", "made_by__workspace").filter(pk=key, dropped_at=None).first()
    if connection is None:
        return
    try:
        news, cursor = open_kind(connection).poll(connection.cursor)
    except InputProblem as problem:
        fails = connection.fails + 1
        Connection.objects.filter(pk=key).update(trouble=str(problem), fails=fails, next_at=later(EVERY, fails))
        return
    take(connection, news)
    Connection.objects.filter(pk=key).update(cursor=cursor, fails=0, looked_at=timezone.now(), next_at=timezone.now() + EVERY)
