"""Who gets the minutes of a meeting, where somebody has said so of it."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone

from server.meetings.models import Going


class Plan(models.Model):
    """Said of one meeting, instead of what is usual. people: who gets its minutes."""

    meeting = models.OneToOneField("meetings.Meeting", models.CASCADE, related_name="plan")
    people = models.ManyToManyField("meetings.Person", related_name="+")
    going = models.CharField(max_length=12, choices=Going.choices)
    said_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    said_at = models.DateTimeField(default=timezone.now)
