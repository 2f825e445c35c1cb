"""Fields elsewhere: by which question each is filled, and what meetings say that they are to hold."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from server.accounts.current import membership_of, signed_in
from server.accounts.models import Membership
from server.answers import Answer
from server.bounds import Name, Number, Prose
from server.connections.actions.fields import ask_for_field, confirm_answer, drop_field, refuse_answer
from server.connections.models import AnswerState, FieldAnswer
from server.connections.queries import answers_for, connection_of, connections_of, open_kind
from server.connections.subjects.base import QuoteSaid, link_of
from server.problems import Refused
from server.sharing.visibility import listed_meetings

router = Router(tags=["connections"], auth=signed_in)
PAGE = 50


class FieldThereOut(Schema):
    key: str
    title: str
    type: str
    choices: list[str]


class FieldQuestionOut(Schema):
    id: int
    field: str
    title: str
    type: str
    question: str
    by_itself: bool


class FieldQuestionIn(Schema):
    """by_itself: it is written without anybody having looked at it."""

    field: Annotated[str, Field(min_length=1, max_length=200)]
    question: Name
    by_itself: bool = False


class FieldAnswerOut(Schema):
    """What a field is to hold, and the lines that say so. value: "" where they do not say it plainly."""

    id: int
    title: str
    type: str
    choices: list[str]
    question: str
    place: str
    value: str
    state: AnswerState
    meeting: UUID
    meeting_title: str
    quotes: list[QuoteSaid]


class FieldValueIn(Schema):
    value: Prose


@router.get("/{connection_id}/fields", response=list[FieldThereOut])
def fields_there(request: HttpRequest, connection_id: UUID) -> Answer:
    """Fields there that can be filled."""
    found = open_kind(connection_of(membership_of(request), connection_id, to_change=True)).fields()
    return [{"key": one.key, "title": one.title, "type": one.type, "choices": list(one.choices)} for one in found]


@router.get("/{connection_id}/questions", response=list[FieldQuestionOut])
def field_questions(request: HttpRequest, connection_id: UUID) -> Answer:
    """By which questions fields are filled."""
    return list(connection_of(membership_of(request), connection_id).questions.all())


@router.put("/{connection_id}/questions", response=FieldQuestionOut)
def set_question(request: HttpRequest, connection_id: UUID, payload: FieldQuestionIn) -> Answer:
    """Have a field filled by the answer to a question."""
    membership = membership_of(request)
    found = connection_of(membership, connection_id, to_change=True)
    return ask_for_field(membership, found, payload.field, payload.question, by_itself=payload.by_itself)


@router.delete("/{connection_id}/questions/{question_id}", response={204: None})
def drop_question(request: HttpRequest, connection_id: UUID, question_id: Number) -> Answer:
    """Fill it no more."""
    membership = membership_of(request)
    found = connection_of(membership, connection_id, to_change=True).questions.filter(pk=question_id).select_related("connection").first()
    if found is None:
        raise Refused(404, "There is no such question (any more).")
    drop_field(membership, found)
    return 204, None


@router.get("/{connection_id}/answers", response=list[FieldAnswerOut])
def field_answers(request: HttpRequest, connection_id: UUID) -> Answer:
    """What fields are to hold, of meetings that I see; what waits for somebody first."""
    membership = membership_of(request)
    rows = answers_for(membership, connection_of(membership, connection_id))
    waits = [one for one in rows.filter(state=AnswerState.PROPOSED)[: 2 * PAGE]]
    return [_answer(one) for one in [*waits, *rows.exclude(state=AnswerState.PROPOSED)[:PAGE]]]


@router.post("/answers/{answer_id}/confirm", response=FieldAnswerOut)
def confirm_field(request: HttpRequest, answer_id: Number, payload: FieldValueIn) -> Answer:
    """It is right, or is to be this: it is written there."""
    membership = membership_of(request)
    return _answer(confirm_answer(membership, _answer_of(membership, answer_id), payload.value))


@router.post("/answers/{answer_id}/refuse", response=FieldAnswerOut)
def refuse_field(request: HttpRequest, answer_id: Number) -> Answer:
    """It is not right: nothing is written, and what was is taken back."""
    membership = membership_of(request)
    return _answer(refuse_answer(membership, _answer_of(membership, answer_id)))


def _answer_of(membership: Membership, key: int) -> FieldAnswer:
    rows = FieldAnswer.objects.filter(question__connection__in=connections_of(membership), meeting__in=listed_meetings(membership))
    found = rows.filter(pk=key).select_related("question__connection", "meeting__workspace").first()
    if found is None:
        raise Refused(404, "There is no such answer (any more), or its meeting is not shared with you.")
    return found


def _answer(answer: FieldAnswer) -> dict:
    lines = sorted(answer.lines.all(), key=lambda line: line.number)
    told = {name: getattr(answer, name) for name in ("id", "value", "state")}
    return {
        **told,
        "title": answer.question.title,
        "type": answer.question.type,
        "choices": answer.question.choices,
        "question": answer.question.question,
        "place": answer.target_name,
        "meeting": answer.meeting_id,
        "meeting_title": answer.meeting.title,
        "quotes": [{"who": line.turn.voice.name, "text": line.text, "at": line.start, "link": link_of(answer.meeting, line.start)} for line in lines],
    }
