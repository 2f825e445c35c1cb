"""Letters on their way out."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone


class LetterState(models.TextChoices):
    """On its way; taken by the mail server; given up after the last try."""

    WAITING = "waiting"
    SENT = "sent"
    FAILED = "failed"


class Letter(models.Model):
    """A mail to one address, kept in the transaction of what caused it and sent by a job. Once it is sent its words are let go."""

    workspace = models.ForeignKey("accounts.Workspace", models.CASCADE, null=True)
    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, null=True, related_name="letters")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    kind = models.CharField(max_length=24)
    to = models.EmailField()
    reply_to = models.EmailField(blank=True)
    # By what mail that comes again is stopped (server.mail.stopping).
    stop = models.CharField(max_length=400, blank=True)
    # What is made and attached as it goes, as "what form" (server.mail.post.ATTACHED): nothing of it is kept here.
    attached = models.CharField(max_length=60, blank=True)
    subject = models.CharField(max_length=300)
    text = models.TextField(blank=True)
    html = models.TextField(blank=True)
    state = models.CharField(max_length=8, choices=LetterState.choices, default=LetterState.WAITING)
    # What the mail server said at the last try.
    said = models.TextField(blank=True)
    queued_at = models.DateTimeField(default=timezone.now, db_index=True)
    sent_at = models.DateTimeField(null=True)
