"""Every hour: who keeps a search that is to tell, and who wants a digest, is told of what is new."""

from __future__ import annotations

from procrastinate.contrib.django import app

from server.library.digest import send_digests
from server.library.kept import tell_of_new
from server.pipeline.work import Queue, fresh_connections


@app.periodic(cron="7 * * * *")
@app.task(name="tell of kept searches", queue=Queue.MAIL, queueing_lock="tell of kept searches")
def tell_of_kept_searches(timestamp: int) -> None:
    """By mail, each once."""
    with fresh_connections():
        tell_of_new()


@app.periodic(cron="2 * * * *")
@app.task(name="send digests", queue=Queue.MAIL, queueing_lock="send digests")
def send_what_is_new(timestamp: int) -> None:
    """By mail, to those whose hour it is."""
    with fresh_connections():
        send_digests()
