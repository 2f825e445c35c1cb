"""The record of a meeting, as it stands."""

from __future__ import annotations

from collections.abc import Iterable
from uuid import UUID

from ninja import Schema

from server.accounts.models import Membership
from server.connections.models import Subject
from server.connections.subjects.base import MeetingSaid, Thing, told
from server.meetings.models import Meeting
from server.record.keep import load_record
from server.sharing.visibility import listed_meetings


class TurnSaid(Schema):
    """What one voice says without a break; start: seconds from the beginning."""

    who: str
    start: float
    text: str


class RecordContents(Schema):
    """The record of a meeting."""

    meeting: MeetingSaid
    turns: list[TurnSaid]


def seen_meeting(side: Membership, key: str) -> Meeting | None:
    """A meeting by its key, where somebody may see it."""
    return listed_meetings(side).filter(pk=UUID(key)).select_related("series", "workspace").first()


def ready(meeting: Meeting) -> bool:
    """Can it be read?"""
    return meeting.ready_at is not None


def _compose(side: Membership, key: str) -> tuple[Meeting, Schema] | None:
    meeting = seen_meeting(side, key)
    if meeting is None or not _has_record(meeting):
        return None
    turns = [TurnSaid(who=turn.speaker, start=turn.start, text=turn.text) for turn in load_record(meeting).turns]
    return meeting, RecordContents(meeting=told(meeting), turns=turns)


def _has_record(meeting: Meeting) -> bool:
    return ready(meeting) and meeting.record_gone_at is None


def _keys(side: Membership, meeting: Meeting) -> Iterable[str]:
    return [str(meeting.pk)] if _has_record(meeting) else []


THING = Thing(Subject.RECORD, RecordContents, _keys, _compose)
