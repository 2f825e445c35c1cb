"""Calendars are looked at when their time has come, each by itself."""

from __future__ import annotations

from contextlib import suppress
from uuid import UUID

from django.db import transaction
from django.utils import timezone
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

from server.calendars.keep import look, store
from server.calendars.models import Calendar
from server.calendars.sources import SOURCES, Fetched
from server.pipeline.work import Queue, fresh_connections


def queue_look(calendar: Calendar) -> None:
    """Have it looked at soon, in the transaction that is open. One that waits already is not queued twice."""
    with suppress(AlreadyEnqueued), transaction.atomic():
        look_at.configure(queueing_lock=f"calendar-{calendar.pk}", lock=f"calendar-{calendar.pk}").defer(calendar_id=str(calendar.pk))


@app.periodic(cron="* * * * *")
@app.task(name="look at calendars", queue=Queue.CALENDARS, queueing_lock="calendars")
def look_at_calendars(timestamp: int) -> None:
    """Queue those whose time has come."""
    with fresh_connections():
        for calendar in Calendar.objects.filter(next_at__lte=timezone.now()).order_by("next_at")[:500]:
            queue_look(calendar)


@app.task(name="look at calendar", queue=Queue.CALENDARS)
def look_at(calendar_id: str) -> None:
    """Look at one; what was given as a file is laid out anew, as the weeks around today move on."""
    with fresh_connections():
        calendar = Calendar.objects.select_related("membership__user").filter(pk=UUID(calendar_id)).first()
        if calendar is None:
            return
        if calendar.kind in SOURCES:
            look(calendar)
        else:
            store(calendar, Fetched(nothing=True))
