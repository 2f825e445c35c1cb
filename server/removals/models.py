"""What was struck, deleted, forgotten or taken back: enough to do it once more after an older backup was put back, and nothing of what it was."""

from __future__ import annotations

import uuid

from django.db import models
from django.utils import timezone


class Removal(models.Model):
    """One of them. facts: keys and times, for `server.removals.ledger.REPLAYS[kind]`."""

    key = models.UUIDField(primary_key=True, default=uuid.uuid4)
    kind = models.CharField(max_length=20)
    facts = models.JSONField()
    at = models.DateTimeField(default=timezone.now, db_index=True)
