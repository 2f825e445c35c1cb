"""Where Procrastinate finds the tasks."""

from procrastinate.contrib.django import app

from server.copies import sweep
from server.pipeline.work import Queue
from server.record.actions.copy_record import make_copy
from server.record.models import RecordCopy

__all__ = ["make_copy", "sweep_record_copies"]


@app.periodic(cron="23 * * * *")
@app.task(name="sweep record copies", queue=Queue.INTAKE, queueing_lock="sweep record copies")
def sweep_record_copies(timestamp: int) -> None:
    """Every hour: documents that were there to be taken away."""
    sweep(RecordCopy)
