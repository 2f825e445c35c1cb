"""Questions put to a meeting, and their answers."""

from __future__ import annotations

from datetime import datetime
from uuid import UUID

from django.db.models import Q
from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from core.search import Answer
from server.accounts.current import membership_of, signed_in
from server.accounts.models import Membership
from server.answers import Answer as Answers
from server.ask.actions.put_question import change_question, put_question
from server.ask.models import Question
from server.ask.queries import answers
from server.bounds import Number
from server.convening.seen import seen
from server.meetings.models import Meeting
from server.problems import Refused
from server.record.models import Line
from server.sharing.visibility import visible_meetings

router = Router(tags=["ask"], auth=signed_in)
"""Of a meeting."""
one_router = Router(tags=["ask"], auth=signed_in)
"""A question by itself."""


class AnswerLineOut(Schema):
    speaker: str
    text: str
    start: float
    lines: list[int]


class QuestionOut(Schema):
    id: int
    text: str
    after: int | None
    shared: bool
    mine: bool
    by: str
    asked_at: datetime
    times: int | None
    opening: str
    """A sentence of the minutes that answers, and rests on the first of these lines; "" where there is none."""
    answer: list[AnswerLineOut]


class QuestionIn(Schema):
    text: str = Field(max_length=400)
    after: Number | None = None


class QuestionPatch(Schema):
    shared: bool | None = None
    removed: bool | None = None


def _out(meeting: Meeting, membership: Membership, pairs: list[tuple[Question, Answer]]) -> list[dict]:
    numbers: dict[int, list[int]] = {}
    for turn, number in Line.objects.filter(meeting=meeting).order_by("number").values_list("turn__number", "number"):
        numbers.setdefault(turn, []).append(number)
    return [
        {
            "id": question.pk,
            "text": question.text,
            "after": question.after_id,
            "shared": question.shared,
            "mine": question.user_id == membership.user_id,
            "by": question.user.called,
            "asked_at": question.asked_at,
            "times": answer.times,
            "opening": answer.opening,
            "answer": [
                {"speaker": turn.speaker, "text": turn.text, "start": turn.start, "lines": numbers.get(turn.id, [])}
                for turn in answer.turns
            ],
        }
        for question, answer in pairs
    ]


def _asked(membership: Membership, meeting: Meeting) -> Answers:
    return (
        Question.objects.filter(Q(user=membership.user) | Q(shared=True), meeting=meeting, removed_at=None)
        .select_related("user", "after__after__after__after")
        .order_by("asked_at", "id")
    )


@router.get("/{meeting_id}/questions", response=list[QuestionOut])
def questions(request: HttpRequest, meeting_id: UUID) -> Answers:
    """My questions and the shared ones, each with its answer in the record as it stands."""
    membership, found = seen(request, meeting_id)
    asked = list(_asked(membership, found))
    return _out(found, membership, list(zip(asked, answers(found, asked), strict=True)))


@router.post("/{meeting_id}/questions", response={201: QuestionOut})
def ask(request: HttpRequest, meeting_id: UUID, payload: QuestionIn) -> Answers:
    """Ask; the answer is lines of the record, the best evidence first, or none where the record does not say."""
    membership, found = seen(request, meeting_id)
    before = _asked(membership, found).filter(pk=payload.after).first() if payload.after else None
    question = put_question(membership, found, payload.text, before)
    [answer] = answers(found, [question])
    return 201, _out(found, membership, [(question, answer)])[0]


@one_router.patch("/{question_id}", response={204: None})
def change(request: HttpRequest, question_id: int, payload: QuestionPatch) -> Answers:
    """Share a question of mine, or not any more; remove it, or put it back."""
    membership = membership_of(request)
    question = Question.objects.filter(pk=question_id, meeting__in=visible_meetings(membership)).select_related("meeting").first()
    if question is None or not question.shared and question.user_id != request.user.pk:
        raise Refused(404, "There is no such question.")
    change_question(membership, question, payload.shared, payload.removed)
    return 204, None
