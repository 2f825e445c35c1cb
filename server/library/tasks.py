"""Every hour: who keeps a search that is to tell, is told of what is new."""

from __future__ import annotations

from procrastinate.contrib.django import app

from server.library.kept import tell_of_new
from server.pipeline.work import Queue, fresh_connections


@app.periodic(cron="7 * * * *")
@app.task(name="tell of kept searches", queue=Queue.MAIL, queueing_lock="tell of kept searches")
def tell_of_kept_searches(timestamp: int) -> None:
    """By mail, each once."""
    with fresh_connections():
        tell_of_new()
