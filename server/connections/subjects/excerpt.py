"""An excerpt: its passage, word for word, and nothing else of its meeting."""

from __future__ import annotations

from collections.abc import Iterable
from uuid import UUID

from django.conf import settings
from ninja import Schema

from server.accounts.models import Membership
from server.connections.models import Subject
from server.connections.subjects.base import Thing
from server.excerpts.queries import said_in, visible_excerpts
from server.meetings.models import Meeting


class PassageSaid(Schema):
    """What somebody says in an excerpt; start: seconds from the beginning of the meeting."""

    who: str
    start: float
    text: str


class ExcerptContents(Schema):
    """An excerpt."""

    id: UUID
    title: str
    seconds: float
    said: list[PassageSaid]
    link: str


def _compose(side: Membership, key: str) -> tuple[Meeting, Schema] | None:
    found = visible_excerpts(side).filter(pk=UUID(key)).first()
    if found is None:
        return None
    said = [PassageSaid(who=one.speaker, start=one.start, text=one.text) for one in said_in(found)]
    if not said:
        return None
    contents = ExcerptContents(id=found.pk, title=found.title, seconds=round(found.end - found.start, 1), said=said, link=f"{settings.BASE_URL}/excerpts/{key}")
    return found.meeting, contents


def _keys(side: Membership, meeting: Meeting) -> Iterable[str]:
    return [str(key) for key in visible_excerpts(side).filter(meeting=meeting).values_list("pk", flat=True)]


THING = Thing(Subject.EXCERPT, ExcerptContents, _keys, _compose)
