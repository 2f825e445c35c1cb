"""Searches that somebody keeps, questions put to all of it, and what is said as numbers, to be found by what it is about."""

from __future__ import annotations

from typing import Any

from django.contrib.postgres.indexes import GinIndex, OpClass
from django.db import models
from django.utils import timezone

from core.reading.encoder import WIDTH


class KeptSearch(models.Model):
    """A search of one member's. wanted: to what it is narrowed (`server.library.narrow.Narrowed`, as the API takes it). seen_at: when its member
    last looked at what it finds; told_at: up to when they were told by mail of what is new."""

    membership = models.ForeignKey("accounts.Membership", models.CASCADE, related_name="kept_searches")
    name = models.CharField(max_length=120)
    words = models.CharField(max_length=400, blank=True)
    wanted = models.JSONField(default=dict)
    tells = models.BooleanField(default=False)
    made_at = models.DateTimeField(default=timezone.now)
    seen_at = models.DateTimeField(default=timezone.now)
    told_at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["name", "id"]
        constraints = [models.UniqueConstraint(fields=["membership", "name"], name="one_kept_search_a_name")]


class SignsField(models.Field):
    """As many bits as the encoder's vectors have values (`core.search.senses.signs`); in Python a text of 0 and 1."""

    def db_type(self, connection: Any) -> str:
        """PostgreSQL's bit string of fixed length."""
        return f"bit({WIDTH})"


class Sense(models.Model):
    """What a turn is about: the encoder's vector (`core.search.senses.packed`). digest: of the words that it was made of."""

    turn = models.OneToOneField("record.Turn", models.CASCADE, primary_key=True, related_name="sense")
    digest = models.BinaryField()
    vector = models.BinaryField()


class SenseSigns(models.Model):
    """What is read when one looks for something: so apart, and small. Of the turns that are about something by themselves. cell: where it falls
    (`core.search.cells`); of a large library the nearest alone are looked at, out of an index that holds all of this."""

    sense = models.OneToOneField(Sense, models.CASCADE, primary_key=True, related_name="signs")
    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="+")
    bits = SignsField()
    cell = models.PositiveSmallIntegerField(default=0)

    class Meta:
        indexes = [models.Index(fields=["cell"], include=["meeting", "bits", "sense"], name="signs_by_cell")]


class HeldWord(models.Model):
    """A word that some record or minutes hold, in small letters; whose, is not kept: by it alone nothing is found that one may not see."""

    word = models.CharField(max_length=40, primary_key=True)

    class Meta:
        indexes = [GinIndex(OpClass("word", "gin_trgm_ops"), name="word_alike")]


class Inquiry(models.Model):
    """A question put to the library, or to a part of it; its member's alone until shared. after: the one it goes on from. wanted: as in KeptSearch.

    No answer is kept: it is found anew, for whoever looks, in what they may see.
    """

    membership = models.ForeignKey("accounts.Membership", models.CASCADE, related_name="inquiries")
    text = models.CharField(max_length=400)
    wanted = models.JSONField(default=dict)
    after = models.ForeignKey("self", models.SET_NULL, null=True)
    shared = models.BooleanField(default=False)
    asked_at = models.DateTimeField(default=timezone.now)
    removed_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-asked_at", "-id"]


class Often(models.TextChoices):
    """How often a digest comes by mail."""

    NEVER = "never"
    DAILY = "daily"
    WEEKLY = "weekly"


class Digest(models.Model):
    """How a member wants to hear of what is new: by mail, how often, at which hour of which zone, and of a week on which day (0: Monday).
    sent_at: up to when they were told by mail; looked_at: up to when they have said to have seen it on Today."""

    membership = models.OneToOneField("accounts.Membership", models.CASCADE, related_name="digest")
    often = models.CharField(max_length=6, choices=Often.choices, default=Often.NEVER)
    hour = models.PositiveSmallIntegerField(default=8)
    time_zone = models.CharField(max_length=64, default="UTC")
    weekday = models.PositiveSmallIntegerField(default=0)
    sent_at = models.DateTimeField(default=timezone.now)
    looked_at = models.DateTimeField(null=True)
