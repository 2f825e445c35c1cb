"""The words a workspace has listed, and the words that people put right."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.db import models
from django.utils import timezone

from core.text import folded


class ListedTerm(models.Model):
    """A name or a piece of jargon of a workspace: how it is written, how it sounds, what it is mistaken for."""

    workspace = models.ForeignKey("accounts.Workspace", models.CASCADE, related_name="terms")
    text = models.CharField(max_length=80)
    # The term as it is compared (core.text.folded).
    folded = models.CharField(max_length=400)
    sounds = models.JSONField(default=list)
    mistaken = models.JSONField(default=list)
    added_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    added_at = models.DateTimeField(default=timezone.now)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workspace", "folded"], name="one_term_a_word")]
        ordering = ["folded"]

    def save(self, *args: Any, **kwargs: Any) -> None:
        """The term is kept in both forms."""
        self.folded = folded(self.text)
        super().save(*args, **kwargs)


class WordFix(models.Model):
    """Somebody put words of a record right, in an edit. Three times the same is offered for the word list, to those who see the meetings."""

    workspace = models.ForeignKey("accounts.Workspace", models.CASCADE)
    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="word_fixes")
    # The number of the edit of the record; taken back, that takes it along.
    edit = models.PositiveIntegerField(null=True)
    line = models.PositiveIntegerField()
    heard = models.TextField()
    meant = models.TextField()
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    at = models.DateTimeField(default=timezone.now)


class DeclinedOffer(models.Model):
    """An offer for the word list that nobody wants to see again."""

    workspace = models.ForeignKey("accounts.Workspace", models.CASCADE)
    heard = models.TextField()
    meant = models.TextField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workspace", "heard", "meant"], name="one_declined_offer")]
