"""Somebody asks to see what they were sent the address of."""

from __future__ import annotations

from django.db import models
from django.utils import timezone


class AccessRequest(models.Model):
    """Of a member who does not see a meeting, to whoever made it. granted: None while nobody has answered."""

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="access_requests")
    membership = models.ForeignKey("accounts.Membership", models.CASCADE, related_name="access_requests")
    words = models.CharField(max_length=400, blank=True)
    at = models.DateTimeField(default=timezone.now)
    granted = models.BooleanField(null=True)
    answered_at = models.DateTimeField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["meeting", "membership"], name="one_request_a_member")]
        ordering = ["at", "id"]
