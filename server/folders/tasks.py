"""Folders are looked into when their time has come, each by itself."""

from __future__ import annotations

from contextlib import suppress
from uuid import UUID

from django.db import transaction
from django.utils import timezone
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

from server.folders.keep import look
from server.folders.models import Folder
from server.pipeline.work import Queue, fresh_connections


def queue_look(folder: Folder) -> None:
    """Have it looked into soon, in the transaction that is open. One that waits already is not queued twice."""
    with suppress(AlreadyEnqueued), transaction.atomic():
        look_into.configure(queueing_lock=f"folder-{folder.pk}", lock=f"folder-{folder.pk}").defer(folder_id=str(folder.pk))


@app.periodic(cron="* * * * *")
@app.task(name="look into folders", queue=Queue.INTAKE, queueing_lock="folders")
def look_into_folders(timestamp: int) -> None:
    """Queue those whose time has come."""
    with fresh_connections():
        for folder in Folder.objects.filter(next_at__lte=timezone.now()).order_by("next_at")[:500]:
            queue_look(folder)


@app.task(name="look into folder", queue=Queue.INTAKE)
def look_into(folder_id: str) -> None:
    """Look into one."""
    with fresh_connections():
        if folder := Folder.objects.select_related("membership__user", "membership__workspace").filter(pk=UUID(folder_id)).first():
            look(folder)
