"""What comes in: uploads while they arrive, recordings once they are kept."""

from __future__ import annotations

import uuid

from django.conf import settings
from django.db import models
from django.utils import timezone


class Upload(models.Model):
    """A file on its way in, a piece at a time (tus 1.0). `offset` is how much has safely arrived."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    name = models.CharField(max_length=255)
    size = models.BigIntegerField()
    offset = models.BigIntegerField(default=0)
    created_at = models.DateTimeField(default=timezone.now)


def media_path(recording: Recording, name: str) -> str:
    """Where a recording's files lie in the media storage."""
    return f"{recording.meeting_id}/{name}"


class Recording(models.Model):
    """A file as it was given, and what was made of it. Kept whatever happens to the work on it."""

    class Form(models.TextChoices):
        """Sound and picture, or a transcript that somebody else made."""

        MEDIA = "media"
        TRANSCRIPT = "transcript"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    meeting = models.OneToOneField("meetings.Meeting", models.CASCADE, related_name="recording")
    form = models.CharField(max_length=12, choices=Form.choices, default=Form.MEDIA)
    original = models.FileField(upload_to=media_path, max_length=300)
    name = models.CharField(max_length=255)
    size = models.BigIntegerField()
    sha256 = models.CharField(max_length=64, db_index=True)
    duration = models.FloatField(null=True)
    facts = models.JSONField(default=dict)
    peaks = models.JSONField(default=list)
    sound = models.FileField(upload_to=media_path, max_length=300, blank=True)
    listening = models.FileField(upload_to=media_path, max_length=300, blank=True)
    uploaded_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    created_at = models.DateTimeField(default=timezone.now)
