"""The record as it is kept: voices, turns, lines with their words."""

from __future__ import annotations

from django.contrib.postgres.indexes import GinIndex, OpClass
from django.db import models
from django.utils import timezone

from server.copies import Copy
from server.meetings.models import Meeting
from server.searched import searched


class Voice(models.Model):
    """Someone heard; naming it makes it a person. `embedding` is what it sounds like, for this meeting only."""

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="voices")
    label = models.CharField(max_length=120)
    person = models.ForeignKey("meetings.Person", models.SET_NULL, null=True, related_name="voices")
    embedding = models.JSONField(null=True)
    # The person was recognised by a known voice; nobody has said so yet.
    recognised = models.BooleanField(default=False)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["meeting", "label"], name="one_voice_a_label")]

    @property
    def name(self) -> str:
        """The person's name, or "Voice A"."""
        return voice_name(self.person.name if self.person else None, self.label)


def voice_name(person: str | None, label: str) -> str:
    """How a voice is called: by the name of the person it was given, if it was given one."""
    return person or f"Voice {label}"


class KnownVoice(models.Model):
    """What somebody sounds like, kept with their consent so that they are recognised in later meetings of the workspace."""

    person = models.OneToOneField("meetings.Person", models.CASCADE, related_name="known_voice")
    vector = models.JSONField()
    meeting = models.ForeignKey("meetings.Meeting", models.SET_NULL, null=True)
    consent_noted_by = models.ForeignKey("accounts.User", models.SET_NULL, null=True)
    at = models.DateTimeField(default=timezone.now)


class Turn(models.Model):
    """What one voice says without a break; numbered from 1 within the meeting."""

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="turns")
    number = models.PositiveIntegerField()
    voice = models.ForeignKey(Voice, models.CASCADE, related_name="turns")
    start = models.FloatField()
    end = models.FloatField()
    language = models.CharField(max_length=12, blank=True)
    # The same in English, by the recogniser, where it was said in another language; the original stands.
    english = models.TextField(blank=True, default="")
    # Put into the chat of a call, and not spoken.
    written = models.BooleanField(default=False)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["meeting", "number"], name="one_turn_a_number")]


class Line(models.Model):
    """A sentence of a turn: the smallest thing that can be cited. `words` are its words, packed."""

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="lines")
    turn = models.ForeignKey(Turn, models.CASCADE, related_name="lines")
    number = models.PositiveIntegerField()
    start = models.FloatField()
    end = models.FloatField()
    text = models.TextField()
    words = models.JSONField(default=list)
    # Somebody has heard it again and found it right.
    checked = models.BooleanField(default=False)
    search = searched("text")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["meeting", "number"], name="one_line_a_number")]
        indexes = [GinIndex(fields=["search"]), GinIndex(OpClass("text", "gin_trgm_ops"), name="line_alike")]


class Edit(models.Model):
    """A change of a record by a person, as steps that can be taken back and made again (server.record.steps).

    `undone_at`: it was taken back; `dropped`: something else was changed since, so that it cannot be made again.
    """

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="edits")
    number = models.PositiveIntegerField()
    user = models.ForeignKey("accounts.User", models.SET_NULL, null=True)
    at = models.DateTimeField(default=timezone.now)
    kind = models.CharField(max_length=20)
    steps = models.JSONField()
    undone_at = models.DateTimeField(null=True)
    dropped = models.BooleanField(default=False)

    class Meta:
        ordering = ["-number"]
        constraints = [models.UniqueConstraint(fields=["meeting", "number"], name="one_edit_a_number")]


class RecordCopy(Copy):
    """A long record as a document, for whoever asked for it. `wanted`: server.record.out.Wanted, packed."""

    NAME = "record"
    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="record_copies")
    user = models.ForeignKey("accounts.User", models.CASCADE)
    wanted = models.JSONField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["meeting", "user", "form"], name="one_record_copy_a_form")]

    @property
    def of(self) -> Meeting:
        """The meeting it is of."""
        return self.meeting


class LiveReading(models.Model):
    """What the encoder says of a turn of a running meeting (`core.reading.along`): there for as long as the last of its lines."""

    line = models.ForeignKey("capture.LiveLine", models.CASCADE, related_name="readings")
    key = models.CharField(max_length=64)
    likely = models.JSONField()
    vector = models.BinaryField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["line", "key"], name="one_live_reading_a_line")]


class Strike(models.Model):
    """A passage was taken out for good: who, when, how much, and where in time; nothing of what it was. `spans`: [[start, end], …] in seconds."""

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="strikes")
    user = models.ForeignKey("accounts.User", models.SET_NULL, null=True)
    at = models.DateTimeField(default=timezone.now)
    words = models.PositiveIntegerField()
    spans = models.JSONField()

    class Meta:
        ordering = ["at", "id"]
