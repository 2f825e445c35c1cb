"""Writing the audit entry: every action calls this in its own transaction."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from django.db import connection

from server.accounts.models import User, Workspace
from server.audit.models import Entry
from server.meetings.models import Meeting


def log(workspace: Workspace, actor: User | None, verb: str, meeting: Meeting | None = None, **detail: object) -> None:
    """Note an act. actor is None when the program itself acts."""
    Entry.objects.create(workspace=workspace, actor=actor, verb=verb, meeting=meeting, detail=detail)


@contextmanager
def erasing() -> Iterator[None]:
    """In the transaction that is open: what an entry says of a person may be rewritten. For `server.rights` alone."""
    with connection.cursor() as cursor:
        cursor.execute("set local aftershower.erasing = 'on'")
        yield
        cursor.execute("set local aftershower.erasing = 'off'")
