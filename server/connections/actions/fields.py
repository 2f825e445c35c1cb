"""Say which fields elsewhere are filled, by which question; and whether what was found is right."""

from __future__ import annotations

from core.problems import InputProblem
from core.search.value import LONGEST, fits
from core.text import one_line, prose
from server.accounts.models import Membership
from server.acting import acting
from server.connections.fields import field_of
from server.connections.kinds import KINDS
from server.connections.models import AnswerState, Connection, FieldAnswer, FieldQuestion, Happened, Subject
from server.connections.queries import open_kind, right_over
from server.connections.rules import queue_delivery
from server.notify import Part
from server.problems import Refused
from server.sharing.policy import Can

MOST = 40
"""Fields of one connection."""


def ask_for_field(membership: Membership, connection: Connection, field: str, question: str, *, by_itself: bool) -> FieldQuestion:
    """From now on, of meetings whose minutes go there, the field is filled by the answer to the question. Raises Refused."""
    if not KINDS[connection.kind].fills:
        raise Refused(422, f"{KINDS[connection.kind].title} has no fields that could be filled.")
    try:
        there = next((one for one in open_kind(connection).fields() if one.key == field), None)
    except InputProblem as problem:
        raise Refused(422, str(problem)) from problem
    with acting(membership, right_over(connection), "ask for field", connection=connection.name, by_itself=by_itself):
        if there is None:
            raise Refused(422, "There is no such field there. Look at the list again.")
        if not one_line(question):
            raise Refused(422, "Say by which question the field is filled, such as “What budget did they name?”.")
        if connection.questions.exclude(field=field).count() >= MOST:
            raise Refused(409, f"{MOST} fields are filled already, which is as many as there can be.")
        said = {"title": there.title, "type": there.type, "choices": list(there.choices), "question": one_line(question)[:400], "by_itself": by_itself}
        return FieldQuestion.objects.update_or_create(connection=connection, field=field, defaults=said)[0]


def drop_field(membership: Membership, question: FieldQuestion) -> None:
    """It is filled no more. What was written there stays there."""
    with acting(membership, right_over(question.connection), "drop field", connection=question.connection.name):
        question.delete()


def confirm_answer(membership: Membership, answer: FieldAnswer, value: str) -> FieldAnswer:
    """It is right, or is to be this value: it is written there. Raises Refused where a field cannot hold it."""
    with acting(membership, Can.CHANGE, "confirm field", answer.meeting, tells=(Part.MEETING,), connection=answer.question.connection.name):
        answer = FieldAnswer.objects.select_for_update(of=("self",)).select_related("question__connection", "meeting").get(pk=answer.pk)
        value = prose(value).strip()
        if not fits(field_of(answer.question), value):
            raise Refused(422, f"“{answer.question.title}” holds {_WANTED[answer.question.type]}{': ' + ', '.join(answer.question.choices) if answer.question.choices else ''}.")
        answer.by_hand = answer.by_hand or value != answer.value
        answer.value, answer.state, answer.by = value, AnswerState.CONFIRMED, membership.user
        answer.save()
        queue_delivery(answer.question.connection, answer.meeting, Subject.ANSWER, str(answer.pk), Happened.MADE, answer.target, answer.target_name, by=membership.user)
    return answer


_WANTED = {"number": "a number in digits", "date": "a day as 2026-03-31", "choice": "one of these", "text": f"up to {LONGEST} signs of text"}


def refuse_answer(membership: Membership, answer: FieldAnswer) -> FieldAnswer:
    """It is not right: nothing is written, and where it was, it is taken back."""
    with acting(membership, Can.CHANGE, "refuse field", answer.meeting, tells=(Part.MEETING,), connection=answer.question.connection.name):
        answer = FieldAnswer.objects.select_for_update(of=("self",)).select_related("question__connection", "meeting").get(pk=answer.pk)
        written = answer.state == AnswerState.CONFIRMED
        answer.state, answer.by = AnswerState.REFUSED, membership.user
        answer.save()
        if written:
            queue_delivery(answer.question.connection, answer.meeting, Subject.ANSWER, str(answer.pk), Happened.GONE, answer.target, answer.target_name, by=membership.user)
    return answer
