"""Where Procrastinate finds the tasks."""

from procrastinate.contrib.django import app

from server.copies import sweep
from server.pipeline.work import Queue, fresh_connections
from server.record.actions.copy_record import make_copy
from server.record.actions.delete_meeting import delete_overdue, erase
from server.record.live import keep_reading_along
from server.record.models import RecordCopy

__all__ = ["delete_overdue_meetings", "erase", "make_copy", "read_running_meetings", "sweep_record_copies"]


@app.periodic(cron="* * * * *")
@app.task(name="read along", queue=Queue.WRITING, queueing_lock="read along", lock="read along")
def read_running_meetings(timestamp: int) -> None:
    """Every minute: what has been said meanwhile in meetings that run. With the worker that can wait: it must not slow their hearing."""
    with fresh_connections():
        keep_reading_along()


@app.periodic(cron="41 * * * *")
@app.task(name="delete overdue meetings", queue=Queue.INTAKE, queueing_lock="delete overdue meetings")
def delete_overdue_meetings(timestamp: int) -> None:
    """Every hour: those that were taken out of the library long enough ago."""
    with fresh_connections():
        delete_overdue()


@app.periodic(cron="23 * * * *")
@app.task(name="sweep record copies", queue=Queue.INTAKE, queueing_lock="sweep record copies")
def sweep_record_copies(timestamp: int) -> None:
    """Every hour: documents that were there to be taken away."""
    sweep(RecordCopy)
