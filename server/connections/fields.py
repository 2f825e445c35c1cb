"""Fields elsewhere, filled by what a meeting says: each by its question, with the lines of the answer; nothing where no line answers."""

from __future__ import annotations

from uuid import UUID

from django.db import transaction

from core.search import Asker
from core.search.value import Field, FieldType, value_in
from server.ask.queries import with_roles
from server.connections.kinds.base import Target
from server.connections.models import AnswerState, Connection, FieldAnswer, FieldQuestion, Happened, Subject
from server.connections.rules import queue_delivery
from server.meetings.models import Meeting
from server.meetings.people import day_of
from server.minutes.keep import load_turns
from server.minutes.queries import stated
from server.pipeline.ear import encoder
from server.record.models import Line


def field_of(question: FieldQuestion) -> Field:
    """As core has it."""
    return Field(FieldType(question.type), tuple(question.choices))


def fill(connection_id: UUID, meeting_id: UUID, target: Target) -> None:
    """Ask a meeting the questions of a connection's fields, for one place there. What a person has said of an answer stands."""
    connection = Connection.objects.select_related("workspace").filter(pk=connection_id, dropped_at=None).first()
    meeting = Meeting.objects.select_related("recording").filter(pk=meeting_id, removed_at=None, going_at=None, record_gone_at=None).first()
    questions = list(connection.questions.all()) if connection else []
    if connection is None or meeting is None or not questions:
        return
    record = with_roles(meeting)
    answers = Asker(record, encoder(), load_turns(meeting), stated(meeting, record)).ask([one.question for one in questions])
    for question, answer in zip(questions, answers, strict=True):
        texts = [turn.text for turn in answer.turns]
        value = value_in(field_of(question), texts, day_of(meeting), meeting.language or "en")
        with transaction.atomic():
            _keep(question, meeting, target, value, [turn.id for turn in answer.turns], texts)


def _keep(question: FieldQuestion, meeting: Meeting, target: Target, value: str, turns: list[int], texts: list[str]) -> None:
    where = {"question": question, "meeting": meeting, "target": target.key}
    before = FieldAnswer.objects.select_for_update().filter(**where).first()
    if before and (before.state != AnswerState.PROPOSED or before.by_hand):
        return
    if before:
        before.delete()
    lines = list(Line.objects.filter(meeting=meeting, turn__number__in=turns).order_by("number"))
    if not lines:
        return
    state = AnswerState.CONFIRMED if question.by_itself and value else AnswerState.PROPOSED
    made = FieldAnswer.objects.create(**where, target_name=target.name[:200], value=value, state=state)
    made.lines.set(lines)
    if state == AnswerState.CONFIRMED:
        queue_delivery(question.connection, meeting, Subject.ANSWER, str(made.pk), Happened.MADE, target.key, target.name)
