"""Questions put to a meeting."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone


class Question(models.Model):
    """A question that somebody put to a meeting; theirs alone until shared. `after`: the one it goes on from.

    No answer is kept: it is found anew in the record as it stands, each time it is looked at.
    """

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="questions")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE)
    text = models.CharField(max_length=400)
    after = models.ForeignKey("self", models.SET_NULL, null=True)
    shared = models.BooleanField(default=False)
    asked_at = models.DateTimeField(default=timezone.now)
    removed_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["asked_at", "id"]
