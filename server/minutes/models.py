"""What is drawn from a record, and the minutes people read and write."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone


class Finding(models.Model):
    """A decision, action, question, date or figure. A drawn one always has lines; one that a person jotted down is theirs and stands."""

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="findings")
    kind = models.CharField(max_length=10)
    text = models.TextField()
    status = models.CharField(max_length=12)
    confidence = models.FloatField()
    owner = models.ForeignKey("meetings.Person", models.SET_NULL, null=True, related_name="actions")
    owner_name = models.CharField(max_length=120, blank=True)
    due = models.DateField(null=True)
    start = models.FloatField()
    end = models.FloatField()
    done_at = models.DateTimeField(null=True)
    jotted_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    lines = models.ManyToManyField("record.Line", related_name="findings")


class Chapter(models.Model):
    """A stretch on one subject."""

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="chapters")
    title = models.CharField(max_length=200)
    turn = models.PositiveIntegerField()
    start = models.FloatField()


class MinutesLine(models.Model):
    """A line of the minutes. `hand` is None while its words are drawn; `drawn` stays True when a person words it anew. A removed line can be had back."""

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="minutes_lines")
    section = models.CharField(max_length=40)
    position = models.PositiveIntegerField()
    text = models.TextField()
    hand = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    hand_initials = models.CharField(max_length=4, blank=True)
    drawn = models.BooleanField(default=True)
    finding = models.ForeignKey(Finding, models.SET_NULL, null=True, related_name="minutes_lines")
    lines = models.ManyToManyField("record.Line", related_name="minutes_lines")
    changed_at = models.DateTimeField(default=timezone.now)
    removed_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["position", "id"]

    @property
    def by_hand(self) -> bool:
        """Is it in a person's words? Also when that person's account is gone."""
        return bool(self.hand_initials)
