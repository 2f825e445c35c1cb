"""Writing the audit entry: every action calls this in its own transaction."""

from __future__ import annotations

from server.accounts.models import User, Workspace
from server.audit.models import Entry
from server.meetings.models import Meeting


def log(workspace: Workspace, actor: User | None, verb: str, meeting: Meeting | None = None, **detail: object) -> None:
    """Note an act. actor is None when the program itself acts."""
    Entry.objects.create(workspace=workspace, actor=actor, verb=verb, meeting=meeting, detail=detail)
