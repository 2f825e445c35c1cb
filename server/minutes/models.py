"""What is drawn from a record, and the minutes people read and write."""

from __future__ import annotations

from datetime import date

from django.conf import settings
from django.contrib.postgres.indexes import GinIndex
from django.db import models
from django.db.models.functions import Coalesce
from django.utils import timezone

from server.searched import searched


class FindingKind(models.TextChoices):
    """What can be drawn from lines."""

    DECISION = "decision"
    ACTION = "action"
    QUESTION = "question"
    DATE = "date"
    FIGURE = "figure"


class FindingStatus(models.TextChoices):
    """Stated in the minutes; settled and then changed in the same meeting; to be confirmed or dismissed by a person; dismissed."""

    STANDING = "standing"
    SUPERSEDED = "superseded"
    PROPOSED = "proposed"
    DISMISSED = "dismissed"


class WordedBy(models.TextChoices):
    """What worded a finding, or gave a chapter its title: a language model, the rules, whoever said it, the agenda."""

    WRITER = "writer"
    RULES = "rules"
    QUOTED = "quoted"
    AGENDA = "agenda"


NEVER = date(9999, 12, 31)
"""When what has no day is due, where one sorts by it."""


class Finding(models.Model):
    """A decision, action, question, date or figure. A drawn one always has lines; one that a person jotted down is theirs and stands."""

    STATED = (FindingKind.DECISION, FindingKind.ACTION, FindingKind.QUESTION)
    """The kinds that have a place in minutes."""

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="findings")
    kind = models.CharField(max_length=10, choices=FindingKind.choices)
    text = models.TextField()
    written = models.CharField(max_length=8, choices=WordedBy.choices, default=WordedBy.RULES)
    status = models.CharField(max_length=12, choices=FindingStatus.choices)
    confidence = models.FloatField()
    owner = models.ForeignKey("meetings.Person", models.SET_NULL, null=True, related_name="actions")
    owner_name = models.CharField(max_length=120, blank=True)
    due = models.DateField(null=True)
    # Said by a person, not by the reader: it stays when the record is read anew.
    owner_by_hand = models.BooleanField(default=False)
    given_at = models.DateTimeField(null=True)  # to its owner, by hand
    due_by_hand = models.BooleanField(default=False)
    start = models.FloatField()
    end = models.FloatField()
    done_at = models.DateTimeField(null=True)
    given_up = models.BooleanField(default=False)  # over, without having been done
    jotted_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    # Of a decision that did not stand: the later one that took its place.
    replaced_by = models.ForeignKey("self", models.SET_NULL, null=True, related_name="earlier")
    lines = models.ManyToManyField("record.Line", related_name="findings")

    class Meta:
        indexes = [models.Index(Coalesce("due", NEVER), name="open_by_due", condition=models.Q(kind=FindingKind.ACTION, done_at=None))]


class Chapter(models.Model):
    """A stretch on one subject. `summary`: what came of it, for the opening of the minutes, and the `lines` that rests on. `ruled`: its title
    by the rules, where a writer has put another."""

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="chapters")
    title = models.CharField(max_length=200)
    ruled = models.CharField(max_length=200, blank=True)
    by = models.CharField(max_length=8, choices=WordedBy.choices, default=WordedBy.RULES)
    turn = models.PositiveIntegerField()
    start = models.FloatField()
    summary = models.TextField(blank=True)
    lines = models.ManyToManyField("record.Line", related_name="chapters")
    search = searched("title")

    class Meta:
        indexes = [GinIndex(fields=["search"])]


class Wording(models.Model):
    """What a writer made of a passage of a meeting (`core.reading.writer.rewording.key`); no text where nothing of it was held, or where
    people would rather have what was there before. As long as the passage does not change it is not written again."""

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="wordings")
    passage = models.CharField(max_length=64)
    text = models.TextField(blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["meeting", "passage"], name="one_wording_a_passage")]


class MinutesLine(models.Model):
    """A line of the minutes. `hand` is None while its words are drawn; `drawn` stays True when a person words it anew. A removed line can be had back.

    `confirmed_initials`: who ticked a drawn line as right; `moved`: a person put it where it is. Such lines stay when minutes are drawn anew.
    """

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="minutes_lines")
    section = models.CharField(max_length=40)
    position = models.PositiveIntegerField()
    text = models.TextField()
    hand = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    hand_initials = models.CharField(max_length=8, blank=True)
    drawn = models.BooleanField(default=True)
    finding = models.ForeignKey(Finding, models.SET_NULL, null=True, related_name="minutes_lines")
    lines = models.ManyToManyField("record.Line", related_name="minutes_lines")
    changed_at = models.DateTimeField(default=timezone.now)
    removed_at = models.DateTimeField(null=True)
    confirmed_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    confirmed_initials = models.CharField(max_length=8, blank=True)
    moved = models.BooleanField(default=False)
    search = searched("text")

    class Meta:
        ordering = ["position", "id"]
        indexes = [GinIndex(fields=["search"])]

    @property
    def by_hand(self) -> bool:
        """Is it in a person's words? Also when that person's account is gone."""
        return bool(self.hand_initials)

    @property
    def held(self) -> bool:
        """Did a person have a say in it, so that it stays when minutes are drawn anew?"""
        return self.by_hand or self.removed_at is not None or bool(self.confirmed_initials) or self.moved


class TurnReading(models.Model):
    """What the encoder says of a turn: the probability of each of its labels, and its vector as float16, for questions."""

    turn = models.OneToOneField("record.Turn", models.CASCADE, related_name="reading")
    likely = models.JSONField()
    vector = models.BinaryField()


class Template(models.Model):
    """A template of the workspace's own: {"title", "sections": […]} as core.minutes.template_from reads it."""

    workspace = models.ForeignKey("accounts.Workspace", models.CASCADE, related_name="templates")
    title = models.CharField(max_length=120)
    data = models.JSONField()
    removed_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["title"]


class OwnWriter(models.Model):
    """A language model elsewhere that words a workspace's minutes. `key` is sealed (server.sealing)."""

    workspace = models.OneToOneField("accounts.Workspace", models.CASCADE, related_name="own_writer")
    address = models.CharField(max_length=300)
    model = models.CharField(max_length=120)
    key = models.TextField(blank=True)


READ_ANEW, WORDED = "read anew", "worded anew"
"""Why there is a version that nobody asked for: the record had changed; a writer has been over it."""


class Version(models.Model):
    """Minutes as they were before they were drawn anew. `lines`: what is needed to have them back; evidence by its times.

    `accepted_at`: when somebody who looked took what came of it; until then it is told what a correction of the record has changed.
    """

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="versions")
    number = models.PositiveIntegerField()
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    why = models.CharField(max_length=40)
    template = models.CharField(max_length=60, blank=True)
    lines = models.JSONField()
    accepted_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-number"]
        constraints = [models.UniqueConstraint(fields=["meeting", "number"], name="one_version_a_number")]


class Judgement(models.Model):
    """What a person said of a finding: right or wrong. Kept as evidence of what the workspace means by such a thing."""

    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="judgements")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    kind = models.CharField(max_length=10, choices=FindingKind.choices)
    right = models.BooleanField()
    confidence = models.FloatField()
    at = models.DateTimeField(default=timezone.now)
    lines = models.ManyToManyField("record.Line", related_name="judgements")
