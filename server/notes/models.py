"""What people write and flag while a meeting goes on."""

from __future__ import annotations

from django.conf import settings
from django.contrib.postgres.indexes import GinIndex
from django.db import models
from django.utils import timezone

from server.searched import searched


class Note(models.Model):
    """A line somebody wrote; theirs alone until they share it. `at` is the second of the record at which they began to write it."""

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="notes")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    text = models.TextField()
    at = models.FloatField(null=True)
    shared = models.BooleanField(default=False)
    created_at = models.DateTimeField(default=timezone.now)
    removed_at = models.DateTimeField(null=True)
    search = searched("text")

    class Meta:
        ordering = ["at", "id"]
        indexes = [GinIndex(fields=["search"])]


class Mark(models.Model):
    """A passage somebody flagged, with a kind the workspace defines."""

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="marks")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    kind = models.CharField(max_length=60)
    start = models.FloatField()
    end = models.FloatField()
    removed_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["start", "id"]


class Comment(models.Model):
    """What somebody says about a passage; `after`: the comment it answers. Those mentioned are told."""

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="comments")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    start = models.FloatField()
    end = models.FloatField()
    text = models.TextField()
    after = models.ForeignKey("self", models.CASCADE, null=True, related_name="replies")
    mentions = models.ManyToManyField(settings.AUTH_USER_MODEL, related_name="mentioned_in")
    at = models.DateTimeField(default=timezone.now)
    changed_at = models.DateTimeField(null=True)
    removed_at = models.DateTimeField(null=True)
    search = searched("text")

    class Meta:
        ordering = ["start", "at"]
        indexes = [GinIndex(fields=["search"])]


class ReactionKind(models.TextChoices):
    """The words there are."""

    AGREED = "agreed"
    DOUBT = "doubt"
    THANKS = "thanks"
    LOOK = "look"


class Reaction(models.Model):
    """What somebody thinks of a passage, in a word."""

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="reactions")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    kind = models.CharField(max_length=12, choices=ReactionKind.choices)
    start = models.FloatField()
    end = models.FloatField()

    class Meta:
        ordering = ["start", "id"]
        constraints = [models.UniqueConstraint(fields=["meeting", "user", "kind", "start"], name="one_reaction_a_passage")]
