"""Links: a way to one thing for somebody without an account, for as long as was meant."""

from __future__ import annotations

import uuid
from datetime import timedelta

from django.db import models
from django.utils import timezone

USUAL = timedelta(days=30)
"""So long a link leads somewhere, unless it is said otherwise."""


class Scope(models.TextChoices):
    """What it leads to: the minutes alone; minutes and record; one excerpt; a sequence of them."""

    MINUTES = "minutes"
    RECORD = "record"
    EXCERPT = "excerpt"
    SEQUENCE = "sequence"


class Link(models.Model):
    """One link. token: sealed, so that whoever has the database alone cannot follow it; digest: what it is found by. whom: for whom it is, in
    its maker's words. sound: what is heard goes with it. passphrase: hashed, "" without one. opened: how often, opened_at: when last."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    workspace = models.ForeignKey("accounts.Workspace", models.CASCADE, related_name="links")
    scope = models.CharField(max_length=8, choices=Scope.choices)
    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, null=True, related_name="links")
    excerpt = models.ForeignKey("excerpts.Excerpt", models.CASCADE, null=True, related_name="links")
    sequence = models.ForeignKey("excerpts.Sequence", models.CASCADE, null=True, related_name="links")
    sound = models.BooleanField(default=False)
    token = models.TextField()
    digest = models.CharField(max_length=64, unique=True)
    whom = models.CharField(max_length=120, blank=True)
    passphrase = models.CharField(max_length=200, blank=True)
    until = models.DateTimeField(null=True)
    made_by = models.ForeignKey("accounts.Membership", models.CASCADE, related_name="links")
    made_at = models.DateTimeField(default=timezone.now)
    revoked_at = models.DateTimeField(null=True)
    opened = models.PositiveIntegerField(default=0)
    opened_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-made_at", "id"]
        constraints = [
            models.CheckConstraint(
                name="link_leads_to_one_thing",
                condition=models.Q(scope__in=("minutes", "record"), meeting__isnull=False, excerpt=None, sequence=None)
                | models.Q(scope="excerpt", meeting=None, excerpt__isnull=False, sequence=None)
                | models.Q(scope="sequence", meeting=None, excerpt=None, sequence__isnull=False),
            )
        ]


class LinkRules(models.Model):
    """What a workspace wants of links: none at all; an end; a passphrase."""

    workspace = models.OneToOneField("accounts.Workspace", models.CASCADE, related_name="link_rules")
    allowed = models.BooleanField(default=True)
    must_end = models.BooleanField(default=False)
    must_have_passphrase = models.BooleanField(default=False)
