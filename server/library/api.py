"""Today, the library, search."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Any
from uuid import UUID

from django.http import HttpRequest
from ninja import Query, Router, Schema

from server.accounts.current import membership_of, signed_in
from server.answers import Answer
from server.bounds import Day, Name, Number, Short
from server.convening.api import WorkOut, Zoned
from server.library.narrow import Holds, Narrowed, Whose, choices_for, narrowed
from server.library.queries import first_line, library_page, mentions_of, my_actions, new_meetings, taken_out
from server.library.rows import RowOut, row_of
from server.library.search import PAGE, Order, search
from server.library.sources import Field
from server.meetings.models import Person, Place, Series, Usual, Visibility
from server.pipeline.queries import being_worked_on
from server.problems import Refused
from server.record.actions.delete_meeting import delete_meeting
from server.sharing.policy import Can, require
from server.sharing.visibility import listed_meetings, visible_meetings

router = Router(tags=["library"], auth=signed_in)


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


class PartOut(Schema):
    text: str
    hit: bool


class HitOut(Schema):
    """field: what of the meeting holds the words. line, start: where in the record that leads, if it leads there. who: whose words they are."""

    field: Field
    line: int | None
    start: float | None
    who: str
    parts: list[PartOut]


class HitsOut(Schema):
    meeting: RowOut
    count: int
    hits: list[HitOut]


class SearchOut(Schema):
    """alike: nothing holds the words as they were typed; these hold words like them. total: meetings that were found, whole: if these are all that
    there are; places: that hold the words in all of them, if these are not too many to count. next: for the page that follows."""

    query: str
    alike: bool
    total: int
    whole: bool
    places: int | None
    meetings: list[HitsOut]
    next: int | None


class NamedOut(Schema):
    id: int
    name: str


class NarrowOut(Schema):
    """By what one can narrow the meetings that one sees."""

    people: list[NamedOut]
    series: list[NamedOut]
    shelves: list[NamedOut]
    languages: list[str]
    places: list[Place]


class ChoicesOut(Schema):
    """seen: by whom the meetings of a series are seen, by its name, where that is usual."""

    people: list[str]
    series: list[str]
    seen: dict[str, Visibility]


class TakenOutOut(Schema):
    """until: it can be had back; then it is deleted for good. by: who took it out."""

    id: UUID
    title: str
    started_at: datetime
    at: datetime
    by: str
    until: datetime


class SignedIn(Schema):
    """name: one's own, typed as a signature."""

    name: Name


class NarrowIn(Zoned):
    """Which meetings are wanted; what is not said does not matter. since, until: days of the time zone, both included."""

    person: Number | None = None
    speaking: bool = False
    series: Number | None = None
    shelf: Number | None = None
    since: Day | None = None
    until: Day | None = None
    time_zone: str = Query("UTC", max_length=64)
    place: Place | None = None
    language: Annotated[str, Query(max_length=12)] = ""
    holds: list[Holds] = Query([], max_length=len(Holds))
    whose: Whose | None = None
    only: list[UUID] = Query([], max_length=50)

    def read(self) -> Narrowed:
        """As the library takes it."""
        holds = tuple(one.value for one in self.holds)
        return Narrowed(self.person, self.speaking, self.series, self.shelf, self.since, self.until, self.time_zone, self.place or "", self.language, holds, self.whose or "", only=tuple(map(str, self.only)))


def narrow_out(kept: dict[str, Any]) -> dict[str, Any]:
    """What `packed` made, as NarrowIn takes it."""
    return {"time_zone" if name == "zone" else name: value for name, value in kept.items()}


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
                "line": first_line(a),
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
def library(request: HttpRequest, wanted: Query[NarrowIn], cursor: Short = "") -> Answer:
    """A page of the meetings I may see, newest first."""
    rows, following = library_page(narrowed(membership_of(request), wanted.read()), cursor)
    return {"rows": [row_of(meeting) for meeting in rows], "next": following}


@router.get("/library/taken-out", response=list[TakenOutOut])
def taken_out_meetings(request: HttpRequest) -> Answer:
    """What was taken out of the library and I may have back, or delete for good."""
    return [
        {"id": one.pk, "title": one.title, "started_at": one.started_at, "at": one.removed_at, "by": one.removed_by.called if one.removed_by else "", "until": until}
        for one, until in taken_out(membership_of(request))
    ]


@router.post("/library/taken-out/{meeting_id}/delete", response={202: None})
def delete_for_good(request: HttpRequest, meeting_id: UUID, payload: SignedIn) -> Answer:
    """Delete it for good, with all that was drawn from it. It cannot be undone."""
    membership = membership_of(request)
    found = visible_meetings(membership, removed=True).filter(pk=meeting_id).first()
    if found is None:
        raise Refused(404, "Nothing of the kind was taken out of the library, or it is not yours to delete.")
    delete_meeting(membership, found, payload.name)
    return 202, None


@router.get("/library/narrow", response=NarrowOut)
def narrow(request: HttpRequest) -> Answer:
    """People, series, languages and places of the meetings I may see."""
    return choices_for(membership_of(request))


@router.get("/search", response=SearchOut)
def search_library(request: HttpRequest, q: Short, wanted: Query[NarrowIn], order: Order = Order.BEST, after: Number = 0) -> Answer:
    """Meetings that hold the words, wherever: titles, people, minutes, chapters, what was said, notes, comments, screens. after: how many of them are
    known already."""
    found = search(membership_of(request), q, wanted.read(), order, after=after)
    until = after + PAGE
    return {
        "query": q,
        "alike": found.alike,
        "total": found.total,
        "whole": found.whole,
        "places": found.places,
        "next": until if until < found.total else None,
        "meetings": [
            {
                "meeting": row_of(hits.meeting),
                "count": hits.count,
                "hits": [
                    {"field": hit.field, "line": hit.line, "start": hit.start, "who": hit.who, "parts": [{"text": text, "hit": marked} for text, marked in hit.parts]}
                    for hit in hits.best
                ],
            }
            for hits in found.meetings
        ],
    }


@router.get("/choices", response=ChoicesOut)
def choices(request: HttpRequest) -> Answer:
    """Names to offer where people and series are typed."""
    membership = membership_of(request)
    require(membership, Can.KNOW_TEAM)
    workspace = membership.workspace
    return {
        "people": list(Person.objects.filter(workspace=workspace).order_by("name").values_list("name", flat=True)),
        "series": list(Series.objects.filter(workspace=workspace).order_by("name").values_list("name", flat=True)),
        "seen": dict(Usual.objects.filter(series__workspace=workspace).exclude(visibility="").values_list("series__name", "visibility")),
    }
