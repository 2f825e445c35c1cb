"""The words a workspace has listed, and the words that people put right."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.db.models.functions import Lower
from django.utils import timezone


class ListedTerm(models.Model):
    """A name or a piece of jargon of a workspace: how it is written, how it sounds, what it is mistaken for."""

    workspace = models.ForeignKey("accounts.Workspace", models.CASCADE, related_name="terms")
    text = models.CharField(max_length=80)
    sounds = models.JSONField(default=list)
    mistaken = models.JSONField(default=list)
    added_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    added_at = models.DateTimeField(default=timezone.now)

    class Meta:
        constraints = [models.UniqueConstraint("workspace", Lower("text"), name="one_term_a_word")]
        ordering = [Lower("text")]


class WordFix(models.Model):
    """Somebody put words of a record right. Three times the same is offered for the word list."""

    workspace = models.ForeignKey("accounts.Workspace", models.CASCADE)
    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="word_fixes")
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
