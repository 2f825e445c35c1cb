"""Connections, what goes by rule, what went where, and what lies there."""

from __future__ import annotations

import uuid

from django.conf import settings
from django.db import models
from django.utils import timezone


class Subject(models.TextChoices):
    """What can go (`server.connections.subjects`)."""

    MINUTES = "minutes"
    RECORD = "record"
    ACTION = "action"
    DECISION = "decision"
    EXCERPT = "excerpt"
    ANSWER = "answer"


class Happened(models.TextChoices):
    """Why it goes: it is new; it says something else now; it is not there any more, and is to be taken back."""

    MADE = "made"
    CHANGED = "changed"
    GONE = "gone"


class Connection(models.Model):
    """An outside system. membership: whose it is; None where it is the workspace's. made_by: in whose name is done what comes back.

    settings: what its kind asks for, but for secrets, which are sealed (`server.sealing`), as is the one by which the other side signs.
    claim: what no other connection may have as well. cursor: as far as it was asked what is new there. told_at: when whoever looks after it
    was last told of trouble.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    workspace = models.ForeignKey("accounts.Workspace", models.CASCADE, related_name="connections")
    membership = models.ForeignKey("accounts.Membership", models.CASCADE, null=True, related_name="connections")
    made_by = models.ForeignKey("accounts.Membership", models.SET_NULL, null=True, related_name="+")
    kind = models.CharField(max_length=40)
    name = models.CharField(max_length=120)
    settings = models.JSONField(default=dict)
    secrets = models.TextField(blank=True)
    signing = models.TextField(blank=True)
    claim = models.CharField(max_length=600, null=True, unique=True)
    cursor = models.TextField(blank=True)
    looked_at = models.DateTimeField(null=True)
    next_at = models.DateTimeField(null=True, db_index=True)
    fails = models.PositiveIntegerField(default=0)
    trouble = models.TextField(blank=True)
    told_at = models.DateTimeField(null=True)
    made_at = models.DateTimeField(default=timezone.now)
    dropped_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["name", "made_at"]


class Rule(models.Model):
    """What goes by itself of meetings that are ready after it was made: of those that meet all it names. template: the kind of meeting;
    people: one of them was there. subjects: which of `Subject`. form: of what else the kind asks of a rule."""

    connection = models.ForeignKey(Connection, models.CASCADE, related_name="rules")
    subjects = models.JSONField(default=list)
    series = models.ForeignKey("meetings.Series", models.CASCADE, null=True, related_name="+")
    shelf = models.ForeignKey("meetings.Shelf", models.CASCADE, null=True, related_name="+")
    template = models.CharField(max_length=60, blank=True)
    people = models.ManyToManyField("meetings.Person", related_name="+")
    target = models.CharField(max_length=200, blank=True)
    target_name = models.CharField(max_length=200, blank=True)
    made_at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["made_at", "id"]


class DeliveryState(models.TextChoices):
    """On its way; waiting for somebody to say which of several is meant; there; put aside after the last try; not sent after all, since there is nothing
    to send any more, or nothing that may be."""

    WAITING = "waiting"
    ASKED = "asked"
    SENT = "sent"
    ASIDE = "aside"
    DROPPED = "dropped"


class Delivery(models.Model):
    """One thing that goes to one place. key: which of its subject: of minutes and records the meeting's. id: the same at every try, by which the other side knows it again. by: who sent it by hand; else rule says by which. said: what the other side answered last. choices: where it may go there, a list of
    [what is asked, key, name], where somebody has to say which is meant."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    connection = models.ForeignKey(Connection, models.CASCADE, related_name="deliveries")
    meeting = models.ForeignKey("meetings.Meeting", models.SET_NULL, null=True, related_name="deliveries")
    subject = models.CharField(max_length=10, choices=Subject.choices)
    key = models.CharField(max_length=40, blank=True)
    happened = models.CharField(max_length=8, choices=Happened.choices)
    target = models.CharField(max_length=200, blank=True)
    target_name = models.CharField(max_length=200, blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    rule = models.ForeignKey(Rule, models.SET_NULL, null=True)
    state = models.CharField(max_length=8, choices=DeliveryState.choices, default=DeliveryState.WAITING)
    choices = models.JSONField(default=list)
    tries = models.PositiveIntegerField(default=0)
    said = models.CharField(max_length=500, blank=True)
    queued_at = models.DateTimeField(default=timezone.now)
    begun_at = models.DateTimeField(null=True)
    next_at = models.DateTimeField(null=True)
    sent_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-queued_at", "-id"]
        indexes = [models.Index(fields=["connection", "-queued_at"]), models.Index(fields=["connection", "state"])]
        constraints = [
            # What changes while it waits is the same delivery: its contents are put together as it goes.
            models.UniqueConstraint(
                fields=["connection", "subject", "key", "target"], condition=models.Q(state="waiting", begun_at=None), name="one_delivery_waits"
            )
        ]


class Placed(models.Model):
    """What lies there of something. remote: by what it is found there; address: for people; mark: by which one state of it is told from
    another. digest: of what was last sent. agreed: what both sides had when they last agreed. clash: where both have changed since, and
    nobody has said which counts. behalf: as whose it is put together, where it went by hand. left: why it lies there, though it should be gone."""

    connection = models.ForeignKey(Connection, models.CASCADE, related_name="placed")
    meeting = models.ForeignKey("meetings.Meeting", models.SET_NULL, null=True, related_name="placed")
    subject = models.CharField(max_length=10, choices=Subject.choices)
    key = models.CharField(max_length=40, blank=True)
    target = models.CharField(max_length=200, blank=True)
    target_name = models.CharField(max_length=200, blank=True)
    remote = models.CharField(max_length=1000, blank=True)
    address = models.CharField(max_length=1000, blank=True)
    mark = models.CharField(max_length=400, blank=True)
    digest = models.CharField(max_length=64, blank=True)
    agreed = models.JSONField(default=dict)
    clash = models.JSONField(default=dict)
    behalf = models.ForeignKey("accounts.Membership", models.SET_NULL, null=True, related_name="+")
    struck = models.BooleanField(default=False)
    placed_at = models.DateTimeField(null=True)
    changed_at = models.DateTimeField(null=True)
    gone_at = models.DateTimeField(null=True)
    left = models.CharField(max_length=400, blank=True)

    class Meta:
        ordering = ["-changed_at", "-id"]
        constraints = [models.UniqueConstraint(fields=["connection", "subject", "key", "target"], name="one_thing_a_place")]


class Heard(models.Model):
    """A message of the other side that was taken, by its own key, so that it is taken once however often it comes."""

    connection = models.ForeignKey(Connection, models.CASCADE, related_name="heard")
    key = models.CharField(max_length=200)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["connection", "key"], name="one_message_a_key")]


class Known(models.Model):
    """Where there what has to do with an address or a domain goes, as somebody has said. what: that address or domain."""

    connection = models.ForeignKey(Connection, models.CASCADE, related_name="known")
    what = models.CharField(max_length=254)
    target = models.CharField(max_length=200)
    target_name = models.CharField(max_length=200)
    said_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["connection", "what"], name="one_place_an_address")]


class FieldQuestion(models.Model):
    """A field there, and the question whose answer it is to hold. by_itself: the answer is written without anybody having looked at it."""

    connection = models.ForeignKey(Connection, models.CASCADE, related_name="questions")
    field = models.CharField(max_length=200)
    title = models.CharField(max_length=200)
    type = models.CharField(max_length=8)
    choices = models.JSONField(default=list)
    question = models.CharField(max_length=400)
    by_itself = models.BooleanField(default=False)

    class Meta:
        ordering = ["title", "id"]
        constraints = [models.UniqueConstraint(fields=["connection", "field"], name="one_question_a_field")]


class AnswerState(models.TextChoices):
    """Waits for somebody; is written there, or on its way; is not to be written."""

    PROPOSED = "proposed"
    CONFIRMED = "confirmed"
    REFUSED = "refused"


class FieldAnswer(models.Model):
    """What a meeting says that a field is to hold, for one place there, and the lines that say so. value: "" where the lines do not say it plainly, so
    that somebody has to. by: who confirmed or refused it."""

    question = models.ForeignKey(FieldQuestion, models.CASCADE, related_name="answers")
    meeting = models.ForeignKey("meetings.Meeting", models.CASCADE, related_name="field_answers")
    target = models.CharField(max_length=200)
    target_name = models.CharField(max_length=200)
    value = models.TextField(blank=True)
    by_hand = models.BooleanField(default=False)
    lines = models.ManyToManyField("record.Line", related_name="field_answers")
    state = models.CharField(max_length=10, choices=AnswerState.choices, default=AnswerState.PROPOSED)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-at", "id"]
        constraints = [models.UniqueConstraint(fields=["question", "meeting", "target"], name="one_answer_a_meeting")]


class ThreadState(models.TextChoices):
    """Being read; there; it could not be read, with why."""

    WAITING = "waiting"
    READY = "ready"
    FAILED = "failed"


class Thread(models.Model):
    """A stretch of a room of a chat that one member had read. room: its key there. messages: as they were then; drawn: what was read in them. Both go
    after some days. meeting: what it was kept as."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    connection = models.ForeignKey(Connection, models.CASCADE, related_name="threads")
    membership = models.ForeignKey("accounts.Membership", models.CASCADE, related_name="+")
    room = models.CharField(max_length=200)
    room_name = models.CharField(max_length=120)
    stretch = models.JSONField(default=dict)
    state = models.CharField(max_length=8, choices=ThreadState.choices, default=ThreadState.WAITING)
    said = models.CharField(max_length=400, blank=True)
    messages = models.JSONField(default=list)
    drawn = models.JSONField(default=list)
    made_at = models.DateTimeField(default=timezone.now)
    meeting = models.ForeignKey("meetings.Meeting", models.SET_NULL, null=True, related_name="+")

    class Meta:
        ordering = ["-made_at"]
