"""Where Procrastinate finds the task."""

from django.core.management import call_command
from procrastinate.contrib.django import app


@app.periodic(cron="41 3 * * *")
@app.task(name="clear sessions", queue="intake", queueing_lock="clear sessions")
def clear_sessions(timestamp: int) -> None:
    """Every night: sessions that have ended leave the database."""
    call_command("clearsessions")
