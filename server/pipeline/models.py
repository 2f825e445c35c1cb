"""How far the work on a meeting has come."""

from __future__ import annotations

from django.db import models


class RunState(models.TextChoices):
    """In the order a stage goes through them; failed ends it until somebody tries again."""

    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"


class StageRun(models.Model):
    """One stage of the work on one meeting."""

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="stage_runs")
    stage = models.CharField(max_length=20)
    state = models.CharField(max_length=10, choices=RunState.choices, default=RunState.WAITING)
    engine = models.CharField(max_length=60, blank=True)
    progress = models.FloatField(default=0.0)
    message = models.TextField(blank=True)
    started_at = models.DateTimeField(null=True)
    finished_at = models.DateTimeField(null=True)
    # Times it was taken up and did not come to an end.
    attempts = models.PositiveIntegerField(default=0)
    # What the stage hands to the next and has no table of its own, such as spans of speech.
    result = models.JSONField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["meeting", "stage"], name="one_run_a_stage")]


class HearingCheckpoint(models.Model):
    """Words heard so far, a passage a row: what a worker that dies does not take with it."""

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE)
    engine = models.CharField(max_length=60)
    until = models.FloatField()
    words = models.JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["meeting", "until"], name="one_checkpoint_a_passage")]


class VoicesCheckpoint(models.Model):
    """Runs of voices found so far, some windows a row: [[start, end, clear seconds, vector], …]."""

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE)
    engine = models.CharField(max_length=60)
    until = models.FloatField()
    runs = models.JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["meeting", "until"], name="one_checkpoint_a_window")]
