"""For how long what is kept; and what of it goes soon."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone

from core.planning.retention import Level, Rule, Terms, What
from server.meetings.models import Place


class KeepingRule(models.Model):
    """One rule: for all of a workspace, or for one kind of meeting (place), or a shelf, or a series. Days after a meeting; None: kept."""

    workspace = models.ForeignKey("accounts.Workspace", models.CASCADE, related_name="keeping_rules")
    place = models.CharField(max_length=10, choices=Place.choices, blank=True)
    shelf = models.ForeignKey("meetings.Shelf", models.CASCADE, null=True)
    series = models.ForeignKey("meetings.Series", models.CASCADE, null=True)
    sound = models.PositiveIntegerField(null=True)
    record = models.PositiveIntegerField(null=True)
    all = models.PositiveIntegerField(null=True)
    said_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    said_at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["id"]
        constraints = [
            models.UniqueConstraint(fields=["workspace", "place", "shelf", "series"], name="one_rule_for_a_thing", nulls_distinct=False),
            models.CheckConstraint(
                name="rule_is_for_one_thing",
                condition=models.Q(shelf=None, series=None) | models.Q(place="", shelf=None) | models.Q(place="", series=None),
            ),
        ]

    @property
    def as_rule(self) -> Rule:
        """As core sees it."""
        level = Level.SERIES if self.series_id else Level.SHELF if self.shelf_id else Level.KIND if self.place else Level.WORKSPACE
        return Rule(self.pk or 0, level, Terms(self.sound, self.record, self.all))


class Announced(models.Model):
    """That something of a meeting goes on a day has been told to whoever made it.

    runs: on how many nights it was found to be so since, the last of them `ran_on`. It goes after seven of them, and not by the clock alone: that may jump.
    """

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="announced")
    what = models.CharField(max_length=8, choices=[(one.value, one.value) for one in What])
    on = models.DateField()
    told_at = models.DateTimeField(default=timezone.now)
    runs = models.PositiveIntegerField(default=0)
    ran_on = models.DateField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["meeting", "what"], name="announced_once")]
