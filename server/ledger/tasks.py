"""Every hour: who has something due tomorrow or since yesterday, is reminded of it."""

from __future__ import annotations

from procrastinate.contrib.django import app

from server.ledger.remind import remind
from server.pipeline.work import Queue, fresh_connections


@app.periodic(cron="17 * * * *")
@app.task(name="remind of actions", queue=Queue.MAIL, queueing_lock="remind of actions")
def remind_of_actions(timestamp: int) -> None:
    """By mail, of each once."""
    with fresh_connections():
        remind()
