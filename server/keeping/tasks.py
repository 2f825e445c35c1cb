"""Where Procrastinate finds the tasks."""

from procrastinate.contrib.django import app

from server.keeping.actions.let_go import keep_to_rules, sweep_files
from server.pipeline.work import Queue, fresh_connections

__all__ = ["keep_to_keeping_rules", "sweep_files"]


@app.periodic(cron="17 2 * * *")
@app.task(name="keep to rules", queue=Queue.INTAKE, queueing_lock="keep to rules")
def keep_to_keeping_rules(timestamp: int) -> None:
    """Every night: what is over its time."""
    with fresh_connections():
        keep_to_rules()
