"""Today, the library, search."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any, cast
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema

from server.accounts.current import membership_of, signed_in
from server.answers import Answer
from server.bounds import Number, Short
from server.convening.api import LaneOut, WorkOut, lanes_of
from server.library.queries import library_page, mentions_of, my_actions, new_meetings, search
from server.meetings.models import Meeting, Person, Series
from server.pipeline.queries import being_worked_on
from server.sharing.policy import Can, require
from server.sharing.visibility import listed_meetings

router = Router(tags=["library"], auth=signed_in)


class RowOut(Schema):
    id: UUID
    title: str
    started_at: datetime
    duration: float
    place: str
    series: str | None
    visibility: str
    people: list[str]
    counts: dict[str, int]
    strip: list[LaneOut]
    ready: bool
    playable: bool


class LibraryOut(Schema):
    rows: list[RowOut]
    next: str | None


class ActionOut(Schema):
    id: int
    text: str
    due: date | None
    done: bool
    meeting: UUID
    meeting_title: str
    line: int


class WorkingOut(Schema):
    id: UUID
    title: str
    work: WorkOut


class MentionOut(Schema):
    comment: int
    by: str
    at: datetime
    meeting: UUID
    meeting_title: str
    start: float


class TodayOut(Schema):
    mentions: list[MentionOut]
    working: list[WorkingOut]
    new: list[RowOut]
    actions: list[ActionOut]
    meetings: int


class SnippetOut(Schema):
    line: int
    start: float
    speaker: str
    parts: list[PartOut]


class PartOut(Schema):
    text: str
    hit: bool


class HitsOut(Schema):
    meeting: RowOut
    count: int
    lines: list[SnippetOut]


class SearchOut(Schema):
    query: str
    lines: int
    meetings: list[HitsOut]


class ChoicesOut(Schema):
    people: list[str]
    series: list[str]


SnippetOut.model_rebuild()


def row_of(meeting: Meeting) -> dict:
    """A meeting as a row of the library."""
    people = [person.name for person in meeting.people.all()]
    return {
        "id": meeting.pk,
        "title": meeting.title,
        "started_at": meeting.started_at,
        "duration": meeting.duration,
        "place": meeting.place,
        "series": meeting.series and meeting.series.name,
        "visibility": meeting.visibility,
        "people": people,
        "counts": meeting.counts,
        "strip": lanes_of(meeting, "small"),
        "ready": meeting.ready_at is not None,
        "playable": bool(meeting.recording.listening) if hasattr(meeting, "recording") else False,
    }


@router.get("/today", response=TodayOut)
def today(request: HttpRequest) -> Answer:
    """What is being worked on, what is new, what I have to do."""
    membership = membership_of(request)
    meetings = listed_meetings(membership)
    return {
        "working": [{"id": meeting.pk, "title": meeting.title, "work": work} for meeting, work in being_worked_on(meetings)],
        "new": [row_of(meeting) for meeting in new_meetings(membership)[:5]],
        "actions": [
            {
                "id": a.pk,
                "text": text,
                "due": a.due,
                "done": a.done_at is not None,
                "meeting": a.meeting_id,
                "meeting_title": a.meeting.title,
                "line": min((line.number for line in a.lines.all()), default=1),
            }
            for a, text in my_actions(membership, 50)
        ],
        "mentions": [
            {
                "comment": one.pk,
                "by": one.user.called if one.user else "",
                "at": one.at,
                "meeting": one.meeting_id,
                "meeting_title": one.meeting.title,
                "start": one.start,
            }
            for one in mentions_of(membership)[:5]
        ],
        "meetings": meetings.count(),
    }


@router.get("/library", response=LibraryOut)
def library(request: HttpRequest, cursor: Short = "", person: Number | None = None, series: Number | None = None) -> Answer:
    """A page of the meetings I may see, newest first."""
    rows, following = library_page(membership_of(request), cursor=cursor, person=person, series=series)
    return {"rows": [row_of(meeting) for meeting in rows], "next": following}


@router.get("/search", response=SearchOut)
def search_library(request: HttpRequest, q: Short) -> Answer:
    """Lines that hold the words, by meeting."""
    found = search(membership_of(request), q)
    return {
        "query": q,
        "lines": sum(hits.count for hits in found),
        "meetings": [
            {
                "meeting": row_of(hits.meeting),
                "count": hits.count,
                "lines": [
                    {"line": line.number, "start": line.start, "speaker": line.turn.voice.name, "parts": _parts(cast(Any, line).snippet)}
                    for line in hits.best
                ],
            }
            for hits in found
        ],
    }


def _parts(snippet: str) -> list[dict]:
    parts = []
    for index, piece in enumerate(snippet.split("\x02")):
        hit, _, rest = piece.partition("\x03") if index else ("", "", piece)
        parts += [{"text": text, "hit": marked} for text, marked in ((hit, True), (rest, False)) if text]
    return parts


@router.get("/choices", response=ChoicesOut)
def choices(request: HttpRequest) -> Answer:
    """Names to offer where people and series are typed."""
    membership = membership_of(request)
    require(membership, Can.KNOW_TEAM)
    workspace = membership.workspace
    return {
        "people": list(Person.objects.filter(workspace=workspace).order_by("name").values_list("name", flat=True)),
        "series": list(Series.objects.filter(workspace=workspace).order_by("name").values_list("name", flat=True)),
    }
