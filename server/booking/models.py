"""Pages on which somebody without an account books a time, and what was booked."""

from __future__ import annotations

import secrets
import uuid

from django.contrib.postgres.constraints import ExclusionConstraint
from django.contrib.postgres.fields import DateTimeRangeField, RangeOperators
from django.db import models
from django.utils import timezone


def new_slug() -> str:
    """A part of an address that nobody guesses."""
    return secrets.token_urlsafe(9)


class BookingPage(models.Model):
    """One member's. hours: day of the week → spans of minutes on the clocks of `zone` (`core.planning.free_times.Terms`, as are the others). calendar: into
    which what is booked is written. link: of the call, where it is always the same. points: the agenda, a list of [text, minutes]. open: can it be booked?"""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    membership = models.ForeignKey("accounts.Membership", models.CASCADE, related_name="booking_pages")
    slug = models.CharField(max_length=40, unique=True, default=new_slug)
    title = models.CharField(max_length=120)
    about = models.TextField(blank=True)
    zone = models.CharField(max_length=64)
    hours = models.JSONField(default=dict)
    length = models.PositiveIntegerField(default=30)
    pause = models.PositiveIntegerField(default=0)
    step = models.PositiveIntegerField(default=30)
    notice = models.PositiveIntegerField(default=24 * 60)
    a_day = models.PositiveIntegerField(null=True)
    ahead = models.PositiveIntegerField(default=60)
    calendar = models.ForeignKey("calendars.Calendar", models.SET_NULL, null=True, related_name="+")
    link = models.CharField(max_length=2000, blank=True)
    points = models.JSONField(default=list)
    open = models.BooleanField(default=True)
    made_at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["title", "id"]


class BookingState(models.TextChoices):
    """It takes place; it was called off."""

    BOOKED = "booked"
    CALLED_OFF = "called off"


class Booking(models.Model):
    """A time that was booked. span: from its start to the end of the pause behind it; no two of one member's meet. digest: by which whoever booked finds it
    again; their link is not kept. zone: theirs. trouble: why it is not in the calendar yet."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    page = models.ForeignKey(BookingPage, models.CASCADE, related_name="bookings")
    membership = models.ForeignKey("accounts.Membership", models.CASCADE, related_name="bookings")
    start = models.DateTimeField(db_index=True)
    end = models.DateTimeField()
    span = DateTimeRangeField()
    name = models.CharField(max_length=120)
    email = models.EmailField()
    zone = models.CharField(max_length=64)
    note = models.TextField(blank=True)
    digest = models.CharField(max_length=64, unique=True)
    state = models.CharField(max_length=10, choices=BookingState.choices, default=BookingState.BOOKED)
    revision = models.PositiveIntegerField(default=0)
    written = models.IntegerField(default=-1)  # the revision that the calendar has
    mark = models.CharField(max_length=400, blank=True)
    trouble = models.CharField(max_length=400, blank=True)
    made_at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["start"]
        constraints = [
            ExclusionConstraint(
                name="no_double_booking", expressions=[("membership", RangeOperators.EQUAL), ("span", RangeOperators.OVERLAPS)], condition=models.Q(state="booked")
            )
        ]

    @property
    def uid(self) -> str:
        """Of its event."""
        return f"booking-{self.pk}@aftershower"
