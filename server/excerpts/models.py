"""Passages that stand alone, and excerpts of several meetings in a row."""

from __future__ import annotations

import uuid

from django.conf import settings
from django.db import models
from django.utils import timezone


def excerpt_path(excerpt: Excerpt, name: str) -> str:
    """Where an excerpt's sound lies in the media storage: with its meeting's other files."""
    return f"{excerpt.meeting_id}/excerpts/{name}"


class Excerpt(models.Model):
    """A passage of a meeting that can be played and shared alone, `start` to `end` in seconds.

    `sound` is cut from the listening copy when it is first asked for, so that nothing else can be heard in it; no words are kept here.
    """

    class Seen(models.TextChoices):
        """Who may see it, besides those who see its meeting."""

        NOBODY = "nobody"
        CHOSEN = "chosen"
        WORKSPACE = "workspace"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="excerpts")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    title = models.CharField(max_length=200)
    start = models.FloatField()
    end = models.FloatField()
    seen = models.CharField(max_length=10, choices=Seen.choices, default=Seen.NOBODY)
    chosen = models.ManyToManyField(settings.AUTH_USER_MODEL, related_name="excerpts_for")
    sound = models.FileField(upload_to=excerpt_path, max_length=300, blank=True)
    at = models.DateTimeField(default=timezone.now)
    removed_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-at"]


class Sequence(models.Model):
    """Excerpts in an order, played in a row. Everyone sees of it the excerpts that they may see."""

    workspace = models.ForeignKey("accounts.Workspace", models.CASCADE, related_name="sequences")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    title = models.CharField(max_length=200)
    excerpts = models.ManyToManyField(Excerpt, through="SequencePart", related_name="sequences")
    at = models.DateTimeField(default=timezone.now)
    removed_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-at"]


class SequencePart(models.Model):
    """An excerpt's place in a sequence."""

    sequence = models.ForeignKey(Sequence, models.CASCADE, related_name="parts")
    excerpt = models.ForeignKey(Excerpt, models.CASCADE)
    position = models.PositiveIntegerField()

    class Meta:
        ordering = ["position"]
