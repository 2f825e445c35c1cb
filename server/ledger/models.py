"""Matters: decisions and actions followed through meetings; who is reminded of them."""

from __future__ import annotations

from django.conf import settings
from django.db import models


class MatterKind(models.TextChoices):
    """What a matter is."""

    DECISION = "decision"
    ACTION = "action"


class StepKind(models.TextChoices):
    """What a meeting does with a matter."""

    MADE = "made"
    CHANGED = "changed"
    CARRIED = "carried"
    DONE = "done"
    DROPPED = "dropped"


CLOSING = (StepKind.DONE, StepKind.DROPPED)
"""By these a matter ends, once a person has said so."""


class StepState(models.TextChoices):
    """Who says so: it was read there, a person said that it is right, or that it is wrong. That a matter is done or dropped counts once a
    person has said so."""

    READ = "read"
    CONFIRMED = "confirmed"
    REFUSED = "refused"


class Matter(models.Model):
    """One decision or action. followed: a later meeting comes back to it."""

    workspace = models.ForeignKey("accounts.Workspace", models.CASCADE)
    kind = models.CharField(max_length=10, choices=MatterKind.choices)
    followed = models.BooleanField(default=False)


class Step(models.Model):
    """What one meeting does with a matter, and the lines it rests on. at: the second at which somebody said so while the meeting ran. finding: that by which it was made, or settled anew; whose it is, when
    it is due, its words and whether it is done are the finding's. Where there is none, the matter stands as it stood before."""

    matter = models.ForeignKey(Matter, models.CASCADE, related_name="steps")
    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="steps")
    kind = models.CharField(max_length=8, choices=StepKind.choices)
    state = models.CharField(max_length=9, choices=StepState.choices, default=StepState.READ)
    finding = models.OneToOneField("minutes.Finding", models.SET_NULL, null=True, related_name="step")
    lines = models.ManyToManyField("record.Line", related_name="steps")
    confidence = models.FloatField(default=1.0)
    at = models.FloatField(null=True)
    judged_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    judged_at = models.DateTimeField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["matter", "meeting"], name="one_step_of_a_matter_a_meeting")]


class Reminders(models.Model):
    """What a member wants to be reminded of by mail: the day before an action of theirs is due, and the day after. feed: the secret in the
    address at which their calendar finds their open actions; None while there is none."""

    membership = models.OneToOneField("accounts.Membership", models.CASCADE, related_name="reminders")
    before = models.BooleanField(default=True)
    after = models.BooleanField(default=True)
    feed = models.CharField(max_length=64, unique=True, null=True)


class Reminded(models.Model):
    """That a member was reminded of a matter, for the day it was due then: each is told of once."""

    matter = models.ForeignKey(Matter, models.CASCADE)
    membership = models.ForeignKey("accounts.Membership", models.CASCADE)
    due = models.DateField()
    late = models.BooleanField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["matter", "membership", "due", "late"], name="reminded_once")]
