"""Bookings are written into calendars by jobs, tried again for hours."""

from __future__ import annotations

from uuid import UUID

from procrastinate import JobContext, RetryStrategy
from procrastinate.contrib.django import app

from core.problems import InputProblem
from server.booking.keep import write
from server.booking.models import Booking
from server.pipeline.work import Queue, fresh_connections
from server.problems import AWAY

TRIES = 9


@app.task(name="write booking", queue=Queue.CALENDARS, pass_context=True, retry=RetryStrategy(max_attempts=TRIES - 1, exponential_wait=4, retry_exceptions={InputProblem, *AWAY}))
def write_booking(context: JobContext, booking_id: str) -> None:
    """One, into its calendar."""
    with fresh_connections():
        try:
            write(UUID(booking_id))
        except InputProblem as problem:
            Booking.objects.filter(pk=booking_id).update(trouble=str(problem)[:400])
            raise
