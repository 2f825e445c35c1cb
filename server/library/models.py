"""Searches that somebody keeps."""

from __future__ import annotations

from django.db import models
from django.utils import timezone


class KeptSearch(models.Model):
    """A search of one member's. wanted: to what it is narrowed (`server.library.narrow.Narrowed`, as the API takes it). seen_at: when its member
    last looked at what it finds; told_at: up to when they were told by mail of what is new."""

    membership = models.ForeignKey("accounts.Membership", models.CASCADE, related_name="kept_searches")
    name = models.CharField(max_length=120)
    words = models.CharField(max_length=400, blank=True)
    wanted = models.JSONField(default=dict)
    tells = models.BooleanField(default=False)
    made_at = models.DateTimeField(default=timezone.now)
    seen_at = models.DateTimeField(default=timezone.now)
    told_at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["name", "id"]
        constraints = [models.UniqueConstraint(fields=["membership", "name"], name="one_kept_search_a_name")]
