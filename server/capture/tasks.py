"""Where Procrastinate finds the tasks."""

from procrastinate.contrib.django import app

from server.capture.live import listen
from server.capture.uploads import sweep
from server.pipeline.work import Queue

__all__ = ["listen", "sweep_uploads"]


@app.periodic(cron="17 * * * *")
@app.task(name="sweep uploads", queue=Queue.INTAKE, queueing_lock="sweep uploads")
def sweep_uploads(timestamp: int) -> None:
    """Every hour: uploads that nobody goes on with are given up."""
    sweep()
