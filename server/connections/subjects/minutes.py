"""The minutes of a meeting, as they stand."""

from __future__ import annotations

from collections.abc import Iterable

from ninja import Schema

from core.minutes.markdown import in_full, sections_of
from core.reading.base import all_said
from server.accounts.models import Membership
from server.connections.models import Subject
from server.connections.subjects.base import MeetingSaid, Thing, link_of, told
from server.connections.subjects.record import ready, seen_meeting
from server.languages import alongside, translated
from server.meetings.models import Meeting
from server.minutes.queries import standing, template_of
from server.record.keep import load_record


class MinutesLineSaid(Schema):
    """A line of minutes. hand: the initials of whoever wrote it, None where it was drawn. at: the second of the record it rests on."""

    text: str
    hand: str | None
    at: float | None
    link: str


class SectionSaid(Schema):
    """A section of minutes."""

    heading: str
    lines: list[MinutesLineSaid]


class MinutesContents(Schema):
    """The minutes of a meeting."""

    meeting: MeetingSaid
    sections: list[SectionSaid]


def _compose(side: Membership, key: str) -> tuple[Meeting, Schema] | None:
    meeting = seen_meeting(side, key)
    if meeting is None or not ready(meeting):
        return None
    lines = [line for _, line in standing(meeting, all_said(load_record(meeting)), removed=False)]
    sections = []
    with alongside(meeting.language):  # whoever looks: it goes there anew where it reads otherwise
        stated = [(heading, [(in_full(line, translated), line) for line in inside]) for heading, inside in sections_of(template_of(meeting), lines, translated)]
    for heading, inside in stated:
        rows = [(text, line.hand, min((said.line.start for said in line.said), default=None)) for text, line in inside]
        sections.append(SectionSaid(heading=heading, lines=[MinutesLineSaid(text=text, hand=hand, at=at, link=link_of(meeting, at)) for text, hand, at in rows]))
    return meeting, MinutesContents(meeting=told(meeting), sections=sections)


def _keys(side: Membership, meeting: Meeting) -> Iterable[str]:
    return [str(meeting.pk)] if ready(meeting) else []


THING = Thing(Subject.MINUTES, MinutesContents, _keys, _compose)
