"""Folders that are watched, and what was found in them."""

from __future__ import annotations

import uuid

from django.db import models

from server.meetings.models import Visibility


class Folder(models.Model):
    """A folder of one member's. address, secret: sealed (`server.sealing`). since: what lay there before is left there."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    membership = models.ForeignKey("accounts.Membership", models.CASCADE, related_name="folders")
    name = models.CharField(max_length=120)
    address = models.TextField()
    host = models.CharField(max_length=255)
    username = models.CharField(max_length=254, blank=True)
    secret = models.TextField(blank=True)
    visibility = models.CharField(max_length=12, choices=Visibility.choices, default=Visibility.MINE)
    looked_at = models.DateTimeField(null=True)
    next_at = models.DateTimeField(db_index=True)
    fails = models.PositiveIntegerField(default=0)
    trouble = models.TextField(blank=True)

    class Meta:
        ordering = ["name", "id"]


class FoundState(models.TextChoices):
    """Left as it lay there before; growing, or not long enough at rest; taken; of no use, with why; beside another file."""

    LEFT = "left"
    GROWING = "growing"
    TAKEN = "taken"
    REFUSED = "refused"
    BESIDE = "beside"


class Found(models.Model):
    """A file of a folder. mark: by what the server tells one state of it from another. words: why it is as it is, for people."""

    folder = models.ForeignKey(Folder, models.CASCADE, related_name="found")
    href = models.CharField(max_length=1000)
    name = models.CharField(max_length=255)
    size = models.BigIntegerField(default=0)
    mark = models.CharField(max_length=400, blank=True)
    modified = models.DateTimeField(null=True)
    state = models.CharField(max_length=8, choices=FoundState.choices, default=FoundState.GROWING)
    words = models.CharField(max_length=400, blank=True)
    found_at = models.DateTimeField(auto_now_add=True)
    meeting = models.ForeignKey("meetings.Meeting", models.SET_NULL, null=True, related_name="+")

    class Meta:
        ordering = ["-found_at", "-id"]
        constraints = [models.UniqueConstraint(fields=["folder", "href"], name="one_file_an_address")]
