"""That a person was erased: who asked for it, how far it is, and nothing of who it was."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone


class Erasure(models.Model):
    """One of them. person: the key of a row that is gone when it is done. struck: what they said goes; else it stays, without whose it was."""

    workspace = models.ForeignKey("accounts.Workspace", models.CASCADE, related_name="erasures")
    person = models.BigIntegerField()
    struck = models.BooleanField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    asked_at = models.DateTimeField(default=timezone.now)
    # Of so many meetings, so many are done; and why it does not go on, where it does not.
    meetings = models.PositiveIntegerField(default=0)
    done = models.PositiveIntegerField(default=0)
    trouble = models.CharField(max_length=400, blank=True)
    done_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-asked_at", "-id"]
