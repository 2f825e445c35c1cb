"""Telephone systems that tell of calls they have recorded, and those calls."""

from __future__ import annotations

import uuid

from django.db import models

from server.meetings.models import Visibility


class Dialer(models.Model):
    """A telephone system of one member's. secret: what it signs with, sealed (`server.sealing`)."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    membership = models.ForeignKey("accounts.Membership", models.CASCADE, related_name="dialers")
    name = models.CharField(max_length=120)
    secret = models.TextField()
    visibility = models.CharField(max_length=12, choices=Visibility.choices, default=Visibility.MINE)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["name", "made_at"]


class RangState(models.TextChoices):
    """To be fetched; a meeting; of no use or not to be had, with why."""

    WAITING = "waiting"
    TAKEN = "taken"
    REFUSED = "refused"


class Rang(models.Model):
    """A call that was recorded. key: its own, so that it is taken once however often it is told. people: who called, and whom; names or numbers."""

    dialer = models.ForeignKey(Dialer, models.CASCADE, related_name="calls")
    key = models.CharField(max_length=200)
    begun_at = models.DateTimeField()
    people = models.JSONField()
    # Sealed: whoever has it can hear the call.
    recording = models.TextField()
    state = models.CharField(max_length=8, choices=RangState.choices, default=RangState.WAITING)
    words = models.CharField(max_length=400, blank=True)
    told_at = models.DateTimeField(auto_now_add=True)
    meeting = models.ForeignKey("meetings.Meeting", models.SET_NULL, null=True, related_name="+")

    class Meta:
        ordering = ["-told_at", "-id"]
        constraints = [models.UniqueConstraint(fields=["dialer", "key"], name="one_call_a_key")]
