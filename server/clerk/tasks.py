"""Every minute: what is due soon in everybody's calendars becomes visits."""

from __future__ import annotations

from django.utils import timezone
from procrastinate.contrib.django import app

from server.accounts.models import Workspace
from server.clerk.visits import AHEAD, plan_visits
from server.pipeline.work import Queue, fresh_connections


@app.periodic(cron="* * * * *")
@app.task(name="plan visits", queue=Queue.CALENDARS, queueing_lock="plan visits")
def plan_all_visits(timestamp: int) -> None:
    """Of the workspaces that have something planned just now."""
    with fresh_connections():
        now = timezone.now()
        soon = {"memberships__calendars__planned__start__lt": now + AHEAD, "memberships__calendars__planned__end__gt": now}
        for workspace in Workspace.objects.filter(**soon).distinct() | Workspace.objects.filter(visits__state="expected").distinct():
            plan_visits(workspace, now)
