"""What is to be discussed, how long each point gets, and what became of it."""

from __future__ import annotations

from django.db import models


class Point(models.Model):
    """A point of a meeting's agenda with its time box in minutes; what became of it is in seconds of the record."""

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="points")
    position = models.PositiveIntegerField()
    text = models.CharField(max_length=200)
    minutes = models.PositiveIntegerField()
    begun_at = models.FloatField(null=True)
    spent = models.FloatField(default=0.0)
    running = models.BooleanField(default=False)

    class Meta:
        ordering = ["position"]


class Preparation(models.Model):
    """The agenda of a meeting that is planned and not held yet: a list of [text, minutes], for all who have the event in their calendars."""

    workspace = models.ForeignKey("accounts.Workspace", models.CASCADE, related_name="preparations")
    uid = models.CharField(max_length=400)
    instance = models.CharField(max_length=20, blank=True)
    points = models.JSONField(default=list)
    sent_at = models.DateTimeField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workspace", "uid", "instance"], name="one_preparation_an_instance")]


class AgendaTemplate(models.Model):
    """The agenda of a kind of meeting: a list of [text, minutes]."""

    workspace = models.ForeignKey("accounts.Workspace", models.CASCADE, related_name="agendas")
    name = models.CharField(max_length=120)
    points = models.JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workspace", "name"], name="one_agenda_a_name")]
