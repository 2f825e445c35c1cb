"""Who did what, when."""

from django.conf import settings
from django.db import models


class Entry(models.Model):
    """One act. `detail` says what changed in words or numbers, never what was said in a meeting."""

    workspace = models.ForeignKey("accounts.Workspace", models.CASCADE)
    at = models.DateTimeField(auto_now_add=True, db_index=True)
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    verb = models.CharField(max_length=40)
    meeting = models.ForeignKey("meetings.Meeting", models.SET_NULL, null=True)
    detail = models.JSONField(default=dict)

    class Meta:
        indexes = [models.Index(fields=["workspace", "-at", "-id"])]
