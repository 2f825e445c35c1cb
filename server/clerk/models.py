"""Where the clerk goes, and what became of it."""

from __future__ import annotations

import uuid

from django.db import models
from django.utils import timezone

from core.planning.attending import ENDS, WORDS, Cause, Standing
from core.planning.joining import Rule


class Visit(models.Model):
    """One clerk at one call, for all who want it there.

    call: the identity of the call (`core.planning.links.Link.call`). until: it stays no longer. uid, instance: of the event, where it is planned.
    why: it goes, in words. paused: it is to be off the record, from `off_at` on. away_by: who sent it away.
    holder, lease_until: the process that attends to it, and until when nobody else does.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    workspace = models.ForeignKey("accounts.Workspace", models.CASCADE, related_name="visits")
    asked_by = models.ForeignKey("accounts.Membership", models.CASCADE, related_name="+")
    wanted_by = models.ManyToManyField("accounts.Membership", related_name="visits")
    call = models.CharField(max_length=64)
    address = models.TextField()
    passcode = models.CharField(max_length=80, blank=True)
    adapter = models.CharField(max_length=20)
    title = models.CharField(max_length=200, blank=True)
    starts_at = models.DateTimeField(db_index=True)
    until = models.DateTimeField()
    uid = models.CharField(max_length=400, blank=True)
    instance = models.CharField(max_length=20, blank=True)
    why = models.CharField(max_length=200, blank=True)
    state = models.CharField(max_length=12, choices=[(one.value, one.value) for one in Standing], default=Standing.EXPECTED.value)
    paused = models.BooleanField(default=False)
    off_at = models.DateTimeField(null=True)
    away_by = models.CharField(max_length=120, blank=True)
    paused_by = models.CharField(max_length=120, blank=True)
    meeting = models.OneToOneField("meetings.Meeting", models.SET_NULL, null=True, related_name="visit")
    holder = models.CharField(max_length=80, blank=True)
    lease_until = models.DateTimeField(null=True)
    made_at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["starts_at", "made_at"]
        constraints = [
            # There is never a second one in a call.
            models.UniqueConstraint(fields=["workspace", "call"], condition=~models.Q(state__in=sorted(one.value for one in ENDS)), name="one_clerk_a_call")
        ]

    @property
    def over(self) -> bool:
        """Has it come to an end?"""
        return self.state in ENDS


class Change(models.Model):
    """What happened to a visit, and when. who: asked for it, or does not agree."""

    visit = models.ForeignKey(Visit, models.CASCADE, related_name="changes")
    at = models.DateTimeField(default=timezone.now)
    state = models.CharField(max_length=12)
    cause = models.CharField(max_length=20)
    who = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering = ["at", "id"]

    @property
    def words(self) -> str:
        """What is told of it, after "the clerk"."""
        return WORDS[Cause(self.cause)].format(who=self.who or "somebody")


class Rules(models.Model):
    """To which meetings of their calendars a member wants the clerk to go by itself."""

    membership = models.OneToOneField("accounts.Membership", models.CASCADE, related_name="clerk_rules")
    rules = models.JSONField(default=list)

    def read(self) -> frozenset[Rule]:
        """As enumeration."""
        return frozenset(Rule(one) for one in self.rules)


class Wish(models.Model):
    """What a member said of one meeting, or of a whole series (instance "*")."""

    membership = models.ForeignKey("accounts.Membership", models.CASCADE, related_name="clerk_wishes")
    uid = models.CharField(max_length=400)
    instance = models.CharField(max_length=20, blank=True)
    wanted = models.BooleanField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["membership", "uid", "instance"], name="one_wish_a_meeting")]


SERIES = "*"
"""As the instance of a wish: every meeting of the event."""
