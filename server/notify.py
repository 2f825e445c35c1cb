"""What changes is told to whoever looks, by PostgreSQL's notifications; `server.events` hands them on to browsers."""

from __future__ import annotations

import json
from collections.abc import Callable, Collection
from uuid import UUID

from django.db import connection
from django.db.models import TextChoices

CHANNEL = "aftershower"


class Part(TextChoices):
    """The parts of a meeting that can be new."""

    MEETING = "meeting"
    PROGRESS = "progress"
    RECORD = "record"
    REVIEW = "review"
    MINUTES = "minutes"
    LEDGER = "ledger"
    NOTES = "notes"
    COMMENTS = "comments"
    QUESTIONS = "questions"
    AGENDA = "agenda"
    CAPTURE = "capture"
    LIVE = "live"
    NOTICES = "notices"
    PICTURES = "pictures"
    EVERYTHING = "everything"


HEARD: list[Callable[[UUID, Collection[Part]], None]] = []
"""What apps have done, in the transaction that is open, when parts of a meeting are new. It is asked often: it answers at once, and queues what takes long."""


def notify(meeting_id: UUID, *parts: Part) -> None:
    """Say, when the transaction that is open is through, that parts of a meeting are new."""
    for hear in HEARD:
        hear(meeting_id, parts)
    _send({"meeting": str(meeting_id), "parts": [str(part) for part in parts]})


def notify_left(session: str) -> None:
    """Say that a session has ended: what it still listens to is closed."""
    _send({"left": session})


def _send(said: dict) -> None:
    with connection.cursor() as cursor:
        cursor.execute("select pg_notify(%s, %s)", [CHANNEL, json.dumps(said)])
