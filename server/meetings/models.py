"""Meetings, the people in them, the series they belong to."""

from __future__ import annotations

import uuid

from django.conf import settings
from django.db import models
from django.utils import timezone


class Person(models.Model):
    """Someone a workspace meets with; linked to a user when they can sign in."""

    workspace = models.ForeignKey("accounts.Workspace", models.CASCADE, related_name="people")
    name = models.CharField(max_length=120)
    email = models.EmailField(blank=True)
    organisation = models.CharField(max_length=120, blank=True)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="people")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workspace", "name"], name="one_person_a_name")]


class Series(models.Model):
    """Meetings that recur."""

    workspace = models.ForeignKey("accounts.Workspace", models.CASCADE)
    name = models.CharField(max_length=200)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workspace", "name"], name="one_series_a_name")]


class Visibility(models.TextChoices):
    """Who may see a meeting, least first."""

    MINE = "mine"
    PRESENT = "present"
    WORKSPACE = "workspace"


class Place(models.TextChoices):
    """How it was captured."""

    ROOM = "room"
    ONLINE = "online"
    FILE = "file"
    MEMO = "memo"
    REHEARSAL = "rehearsal"


class Meeting(models.Model):
    """One gathering. `ready_at` is when its minutes could first be read."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    workspace = models.ForeignKey("accounts.Workspace", models.CASCADE, related_name="meetings")
    title = models.CharField(max_length=200)
    started_at = models.DateTimeField(db_index=True)
    time_zone = models.CharField(max_length=64, default="UTC")
    duration = models.FloatField(default=0.0)
    language = models.CharField(max_length=12, blank=True)
    # What whoever gave it said of it: how many voices, names and jargon to expect.
    expected_voices = models.PositiveIntegerField(null=True)
    terms = models.JSONField(default=list)
    # How its minutes are laid out: chosen by a person ("" leaves it to what the talk suggests), and what it suggests.
    template = models.CharField(max_length=60, blank=True)
    proposed_template = models.CharField(max_length=60, blank=True)
    topics = models.JSONField(default=list)
    place = models.CharField(max_length=10, choices=Place.choices, default=Place.FILE)
    series = models.ForeignKey(Series, models.SET_NULL, null=True, related_name="meetings")
    visibility = models.CharField(max_length=12, choices=Visibility.choices, default=Visibility.PRESENT)
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    created_at = models.DateTimeField(default=timezone.now)
    ready_at = models.DateTimeField(null=True)
    removed_at = models.DateTimeField(null=True)
    # What the library shows of it without opening it; made anew by the index stage.
    strip = models.JSONField(default=dict)
    counts = models.JSONField(default=dict)
    people = models.ManyToManyField(Person, through="Attendee", related_name="meetings")

    class Meta:
        indexes = [models.Index(fields=["workspace", "-started_at"])]


class Attendee(models.Model):
    """A person in a meeting."""

    meeting = models.ForeignKey(Meeting, models.CASCADE, related_name="attendees")
    person = models.ForeignKey(Person, models.CASCADE)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["meeting", "person"], name="one_attendance")]
