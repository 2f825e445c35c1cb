"""What a member's calendars hold, as it came and as it falls into the weeks around today."""

from __future__ import annotations

import uuid

from django.db import models


class CalendarKind(models.TextChoices):
    """How it is had: by an address that gives it as a whole; from an account (CalDAV, RFC 4791); as a file that somebody gave; letter
    by letter, as invitations that were sent to the clerk."""

    FEED = "feed"
    ACCOUNT = "account"
    FILE = "file"
    MAIL = "mail"


class Calendar(models.Model):
    """A calendar of one member, whose alone it is.

    address, secret: sealed (`server.sealing`), as an address may be a secret of its own; host is what is shown of it. etag, modified, token:
    what it is asked by whether anything is new.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    membership = models.ForeignKey("accounts.Membership", models.CASCADE, related_name="calendars")
    kind = models.CharField(max_length=8, choices=CalendarKind.choices)
    name = models.CharField(max_length=120)
    address = models.TextField(blank=True)
    host = models.CharField(max_length=255, blank=True)
    username = models.CharField(max_length=254, blank=True)
    secret = models.TextField(blank=True)
    etag = models.CharField(max_length=400, blank=True)
    modified = models.CharField(max_length=100, blank=True)
    token = models.TextField(blank=True)
    looked_at = models.DateTimeField(null=True)
    next_at = models.DateTimeField(null=True, db_index=True)
    fails = models.PositiveIntegerField(default=0)
    # Why it could not be had the last time; and what of it could not be read.
    trouble = models.TextField(blank=True)
    unread = models.JSONField(default=list)

    class Meta:
        ordering = ["name", "id"]


class Part(models.Model):
    """A calendar as it came: a feed or a file is one part, an account has one for each event."""

    calendar = models.ForeignKey(Calendar, models.CASCADE, related_name="parts")
    href = models.CharField(max_length=1000, blank=True)
    data = models.TextField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["calendar", "href"], name="one_part_an_address")]


class Planned(models.Model):
    """One instance of an event (`core.planning.events`), with the link of its call."""

    calendar = models.ForeignKey(Calendar, models.CASCADE, related_name="planned")
    uid = models.CharField(max_length=400)
    instance = models.CharField(max_length=20, blank=True)
    title = models.CharField(max_length=200, blank=True)
    start = models.DateTimeField(db_index=True)
    end = models.DateTimeField()
    zone = models.CharField(max_length=64, blank=True)
    all_day = models.BooleanField(default=False)
    status = models.CharField(max_length=10)
    private = models.BooleanField(default=False)
    free = models.BooleanField(default=False)  # it takes no time
    recurs = models.BooleanField(default=False)
    place = models.CharField(max_length=400, blank=True)
    text = models.TextField(blank=True)
    # Each with name, address, answer, and whether it is who called the meeting; without the clerk.
    people = models.JSONField(default=list)
    clerk_asked = models.BooleanField(default=False)
    link = models.TextField(blank=True)
    passcode = models.CharField(max_length=80, blank=True)
    why = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ["start", "id"]
        constraints = [models.UniqueConstraint(fields=["calendar", "uid", "instance"], name="one_instance_a_calendar")]


class Occasion(models.Model):
    """A meeting that was planned: which event it is, in whoever's calendar."""

    meeting = models.OneToOneField("meetings.Meeting", models.CASCADE, related_name="occasion")
    uid = models.CharField(max_length=400, db_index=True)
    instance = models.CharField(max_length=20, blank=True)


class RecurringSeries(models.Model):
    """The series that the meetings of a recurring event belong to."""

    workspace = models.ForeignKey("accounts.Workspace", models.CASCADE, related_name="+")
    uid = models.CharField(max_length=400)
    series = models.ForeignKey("meetings.Series", models.CASCADE, related_name="+")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workspace", "uid"], name="one_series_an_event")]
