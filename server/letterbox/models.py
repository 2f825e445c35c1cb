"""What was sent to the clerk by mail, and what came of it."""

from __future__ import annotations

from django.db import models
from django.utils import timezone


class Arrived(models.Model):
    """A letter to the clerk from a member. key: the letter's own, so that one that comes twice is taken once. words: what came of it."""

    membership = models.ForeignKey("accounts.Membership", models.CASCADE, related_name="letters")
    key = models.CharField(max_length=64)
    title = models.CharField(max_length=200, blank=True)
    goes = models.BooleanField()
    words = models.CharField(max_length=400)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-at", "-id"]
        constraints = [models.UniqueConstraint(fields=["membership", "key"], name="one_letter_a_key")]


class Sender(models.Model):
    """An address from which mail is taken as if it came from a member, such as a recorder's in a meeting room; whether or not somebody vouches for it."""

    membership = models.ForeignKey("accounts.Membership", models.CASCADE, related_name="senders")
    address = models.EmailField()

    class Meta:
        ordering = ["address"]
        constraints = [models.UniqueConstraint(fields=["membership", "address"], name="one_sender_an_address")]
