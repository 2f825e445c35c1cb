"""What a meeting says that a field elsewhere is to hold: once somebody has confirmed it, or where its question is written by itself."""

from __future__ import annotations

from collections.abc import Iterable

from ninja import Schema

from server.accounts.models import Membership
from server.connections.models import AnswerState, FieldAnswer, Subject
from server.connections.subjects.base import MeetingSaid, QuoteSaid, Thing, link_of, told
from server.meetings.models import Meeting
from server.sharing.visibility import listed_meetings


class AnswerContents(Schema):
    """The value of a field, with the lines that say so."""

    id: int
    field: str
    title: str
    type: str
    value: str
    place: str
    quotes: list[QuoteSaid]
    meeting: MeetingSaid


def _confirmed(side: Membership, **which: object) -> Iterable[FieldAnswer]:
    rows = FieldAnswer.objects.filter(state=AnswerState.CONFIRMED, meeting__in=listed_meetings(side), **which).exclude(value="")
    return rows.select_related("question", "meeting__series")


def _compose(side: Membership, key: str) -> tuple[Meeting, Schema] | None:
    answer = next(iter(_confirmed(side, pk=int(key))), None)
    if answer is None:
        return None
    lines = answer.lines.select_related("turn__voice__person").order_by("number")
    quotes = [QuoteSaid(who=line.turn.voice.name, text=line.text, at=line.start, link=link_of(answer.meeting, line.start)) for line in lines]
    if not quotes:
        return None  # nothing stands on no line
    asked = answer.question
    contents = AnswerContents(
        id=answer.pk, field=asked.field, title=asked.title, type=asked.type, value=answer.value, place=answer.target_name, quotes=quotes, meeting=told(answer.meeting)
    )
    return answer.meeting, contents


def _keys(side: Membership, meeting: Meeting) -> Iterable[str]:
    return [str(one.pk) for one in _confirmed(side, meeting=meeting)]


THING = Thing(Subject.ANSWER, AnswerContents, _keys, _compose)
