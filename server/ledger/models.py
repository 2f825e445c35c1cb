"""Matters: decisions and actions followed through meetings."""

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
    """What one meeting does with a matter, and the lines it rests on. finding: that by which it was made, or settled anew; whose it is, when
    it is due, its words and whether it is done are the finding's. Where there is none, the matter stands as it stood before."""

    matter = models.ForeignKey(Matter, models.CASCADE, related_name="steps")
    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="steps")
    kind = models.CharField(max_length=8, choices=StepKind.choices)
    state = models.CharField(max_length=9, choices=StepState.choices, default=StepState.READ)
    finding = models.OneToOneField("minutes.Finding", models.SET_NULL, null=True, related_name="step")
    lines = models.ManyToManyField("record.Line", related_name="steps")
    confidence = models.FloatField(default=1.0)
    judged_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    judged_at = models.DateTimeField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["matter", "meeting"], name="one_step_of_a_matter_a_meeting")]
