"""The ledger of removals: written in the transaction of each, kept beside the database as well, and replayed after a restore.

The file is what survives the loss of the database: it belongs on another disk (AFTERSHOWER_REMOVALS). A backup takes the ledger along.
"""

from __future__ import annotations

import json
import logging
import os
from collections.abc import Callable, Iterable
from typing import Any
from uuid import UUID

from django.conf import settings
from django.db import transaction
from django.utils.dateparse import parse_datetime

from server.removals.models import Removal

logger = logging.getLogger("server.removals")

REPLAYS: dict[str, Callable[[dict[str, Any]], None]] = {}
"""Kind → does it once more; what is gone already is passed over."""


def replays(kind: str) -> Callable[[Callable[[dict[str, Any]], None]], Callable[[dict[str, Any]], None]]:
    """Registers what does a kind of removal once more."""

    def register(function: Callable[[dict[str, Any]], None]) -> Callable[[dict[str, Any]], None]:
        REPLAYS[kind] = function
        return function

    return register


def note_removal(kind: str, **facts: Any) -> None:
    """In the transaction that is open."""
    row = Removal.objects.create(kind=kind, facts=facts)
    transaction.on_commit(lambda: _append(as_line(row)))


def as_line(row: Removal) -> str:
    """A removal as a line of the ledger (JSON)."""
    return json.dumps({"key": str(row.key), "kind": row.kind, "at": row.at.isoformat(), "facts": row.facts}, ensure_ascii=False)


def _append(line: str) -> None:
    try:
        descriptor = os.open(settings.REMOVALS, os.O_WRONLY | os.O_APPEND | os.O_CREAT, 0o600)
        with os.fdopen(descriptor, "a", encoding="utf-8") as ledger:
            ledger.write(line + "\n")
            ledger.flush()
            os.fsync(ledger.fileno())
    except OSError as error:  # the database has it; the removal itself must not fail for the second place
        logger.error("the ledger of removals cannot be written (%s)", error)


def replay(lines: Iterable[str]) -> int:
    """Do once more what is not in effect here, in order of time. Returns how many. Raises ValueError for what is no ledger."""
    entries = {one["key"]: one for one in (json.loads(line) for line in lines if line.strip())}
    known = {str(key) for key in Removal.objects.values_list("key", flat=True)}
    fresh = sorted((one for key, one in entries.items() if key not in known), key=lambda one: one["at"])
    for one in fresh:
        at = parse_datetime(one["at"])
        if one["kind"] not in REPLAYS or at is None:
            raise ValueError(f"the ledger of removals has an entry that this version does not know: {one['kind']}")
        with transaction.atomic():
            REPLAYS[one["kind"]](one["facts"])
            Removal.objects.create(key=UUID(one["key"]), kind=one["kind"], facts=one["facts"], at=at)
    return len(fresh)
