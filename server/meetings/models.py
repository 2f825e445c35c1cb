"""Meetings, the people in them, the series they belong to."""

from __future__ import annotations

import uuid
from typing import Any

from django.conf import settings
from django.contrib.postgres.indexes import GinIndex
from django.db import models
from django.utils import timezone

from core.text import folded, one_line
from server.bounds import EARLIEST, LATEST
from server.searched import searched


class Person(models.Model):
    """Someone a workspace meets with; tied to a user by that user's own accepted invitation, and never anew.

    Being a person, or being in a meeting, gives nobody access to anything: see `Reader`.
    """

    workspace = models.ForeignKey("accounts.Workspace", models.CASCADE, related_name="people")
    name = models.CharField(max_length=120)
    # The name as it is compared (core.text.folded).
    folded = models.CharField(max_length=400)
    email = models.EmailField(blank=True)
    organisation = models.CharField(max_length=120, blank=True)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="people")
    search = searched("name")

    class Meta:
        indexes = [GinIndex(fields=["search"])]
        constraints = [
            models.UniqueConstraint(fields=["workspace", "folded"], name="one_person_a_name"),
            models.UniqueConstraint(fields=["workspace", "user"], name="one_person_a_user"),
        ]

    def save(self, *args: Any, **kwargs: Any) -> None:
        """The name is kept in both forms."""
        self.name = one_line(self.name)[:120]
        self.folded = folded(self.name)
        if (fields := kwargs.get("update_fields")) is not None and "name" in fields:
            kwargs["update_fields"] = {*fields, "folded"}
        super().save(*args, **kwargs)


class Series(models.Model):
    """Meetings that recur."""

    workspace = models.ForeignKey("accounts.Workspace", models.CASCADE)
    name = models.CharField(max_length=200)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workspace", "name"], name="one_series_a_name")]


class Visibility(models.TextChoices):
    """Who may see a meeting, least first: whoever made it; those of the shelves it stands on too (`Shelf`); those let in by name too (`Reader`);
    the workspace's members too."""

    MINE = "mine"
    SHELF = "shelf"
    NAMED = "named"
    WORKSPACE = "workspace"


class GoesTo(models.TextChoices):
    """Who gets the minutes: nobody by itself; whoever made the meeting; those who were there; those who see it."""

    NOBODY = "nobody"
    MAKER = "maker"
    PRESENT = "present"
    SEERS = "seers"


class Going(models.TextChoices):
    """When minutes go: as soon as they are ready; when somebody has looked them over and sends them."""

    AT_ONCE = "at once"
    LOOKED_OVER = "looked over"


class Custom(models.Model):
    """What is usual of meetings for which nobody says otherwise; "" leaves it to what is asked next (`server.sharing.usual.Customs`)."""

    visibility = models.CharField(max_length=12, choices=Visibility.choices, blank=True)
    goes_to = models.CharField(max_length=8, choices=GoesTo.choices, blank=True)
    going = models.CharField(max_length=12, choices=Going.choices, blank=True)

    class Meta:
        abstract = True


class WorkspaceCustom(Custom):
    """Of all meetings of a workspace."""

    workspace = models.OneToOneField("accounts.Workspace", models.CASCADE, related_name="custom")


class OwnCustom(Custom):
    """Of those that a member makes."""

    membership = models.OneToOneField("accounts.Membership", models.CASCADE, related_name="custom")


class Usual(Custom):
    """Of those of a series: a meeting takes it when it comes to be of it.

    points: the standing agenda, a list of [text, minutes]. readers: who are let in by name. receivers: to whom the minutes are sent besides,
    who need not have been there.
    """

    series = models.OneToOneField(Series, models.CASCADE, related_name="usual")
    template = models.CharField(max_length=60, blank=True)
    points = models.JSONField(default=list)
    readers = models.ManyToManyField("accounts.Membership", related_name="+")
    receivers = models.ManyToManyField(Person, related_name="+")


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
    visibility = models.CharField(max_length=12, choices=Visibility.choices, default=Visibility.NAMED)
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    created_at = models.DateTimeField(default=timezone.now)
    ready_at = models.DateTimeField(null=True)
    # Taken out of the library, by whom; and it is being deleted for good.
    removed_at = models.DateTimeField(null=True)
    removed_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    going_at = models.DateTimeField(null=True)
    # What was said in it was let go of by a rule; its minutes are left, and nothing is read anew.
    record_gone_at = models.DateTimeField(null=True)
    # What the library shows of it without opening it; made anew by the index stage.
    strip = models.JSONField(default=dict)
    counts = models.JSONField(default=dict)
    people = models.ManyToManyField(Person, through="Attendee", related_name="meetings")
    search = searched("title")

    class Meta:
        indexes = [models.Index(fields=["workspace", "-started_at"]), models.Index(fields=["workspace", "-ready_at"]), GinIndex(fields=["search"])]
        constraints = [
            # At the edges of time a row could not be read any more, nor any list that holds it.
            models.CheckConstraint(condition=models.Q(started_at__gte=EARLIEST, started_at__lt=LATEST), name="within_time")
        ]


class Hold(models.Model):
    """Nothing of a meeting goes, by rule or by hand, as long as this is there."""

    meeting = models.OneToOneField(Meeting, models.CASCADE, related_name="hold")
    why = models.CharField(max_length=400)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    at = models.DateTimeField(default=timezone.now)


class Attendee(models.Model):
    """A person in a meeting."""

    meeting = models.ForeignKey(Meeting, models.CASCADE, related_name="attendees")
    person = models.ForeignKey(Person, models.CASCADE)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["meeting", "person"], name="one_attendance")]


class Reader(models.Model):
    """Somebody who may see a meeting by name, let in by one who governs it."""

    meeting = models.ForeignKey(Meeting, models.CASCADE, related_name="readers")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="+")
    let_in_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["meeting", "user"], name="one_reader_a_user")]


class Shelf(models.Model):
    """A named set of meetings. Open: anyone of the workspace's members may join; closed: whom a keeper lets in. Those who have a place at it see
    what stands on it, but for what is its maker's alone. Two may be called the same: of a closed one nobody else is to know."""

    workspace = models.ForeignKey("accounts.Workspace", models.CASCADE)
    name = models.CharField(max_length=120)
    about = models.CharField(max_length=400, blank=True)
    closed = models.BooleanField(default=False)
    made_at = models.DateTimeField(default=timezone.now)
    series = models.ManyToManyField(Series, related_name="shelves")

    class Meta:
        ordering = ["name", "id"]


class ShelfPlace(models.Model):
    """A member's place at a shelf. keeper: they say who else has one, and what stands there."""

    shelf = models.ForeignKey(Shelf, models.CASCADE, related_name="places")
    membership = models.ForeignKey("accounts.Membership", models.CASCADE, related_name="shelf_places")
    keeper = models.BooleanField(default=False)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["shelf", "membership"], name="one_place_a_member")]


class Shelved(models.Model):
    """That a meeting stands on a shelf. by: who put it there; None where it came with its series."""

    shelf = models.ForeignKey(Shelf, models.CASCADE, related_name="shelved")
    meeting = models.ForeignKey(Meeting, models.CASCADE, related_name="shelved")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["shelf", "meeting"], name="once_on_a_shelf")]
