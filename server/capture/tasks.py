"""Where Procrastinate finds the tasks."""

from procrastinate.contrib.django import app

from server import copies
from server.capture.actions.copy_sound import make_copy
from server.capture.live import listen
from server.capture.models import SoundCopy
from server.capture.uploads import sweep
from server.pipeline.work import Queue

__all__ = ["listen", "make_copy", "sweep_uploads"]


@app.periodic(cron="17 * * * *")
@app.task(name="sweep uploads", queue=Queue.INTAKE, queueing_lock="sweep uploads")
def sweep_uploads(timestamp: int) -> None:
    """Every hour: uploads that nobody goes on with are given up, and copies that were there to be taken away."""
    sweep()
    copies.sweep(SoundCopy)
