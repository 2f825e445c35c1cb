"""Series."""

from __future__ import annotations

from datetime import date, datetime
from typing import Literal
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from server.accounts.current import membership_of, signed_in
from server.answers import Answer
from server.bounds import Name, Number, Short
from server.convening.seen import seen
from server.library.actions.rename_series import rename_series
from server.library.actions.set_usual import set_usual
from server.library.rows import RowOut, row_of
from server.library.series import about_series, neighbours, series_of
from server.meetings.models import GoesTo, Going, Usual, Visibility
from server.minutes.models import Finding
from server.sharing.policy import Can, may

router = Router(tags=["series"], auth=signed_in)
meeting_router = Router(tags=["series"], auth=signed_in)


class MatterOut(Schema):
    """A decision, or an action or question that is open, with the meeting it is of. line: of the record, that it rests on. whose: an action is."""

    id: int
    kind: Literal["decision", "action", "question"]
    text: str
    whose: str
    due: date | None
    meeting: UUID
    title: str
    started_at: datetime
    line: int | None


class ThereOut(Schema):
    """times: in how many of its meetings."""

    id: int
    name: str
    times: int


class ShareOut(Schema):
    name: str
    share: float


class SpokenOut(Schema):
    meeting: UUID
    started_at: datetime
    shares: list[ShareOut]


class UsualPoint(Schema):
    """minutes: of its time box."""

    text: Name
    minutes: int = Field(10, ge=1, le=600)


class UsualOut(Schema):
    """What its further meetings take. visibility: of those for which nobody chooses it ("": as otherwise). readers: keys of members who see them by name.
    receivers: keys of people who get their minutes besides those that goes_to says; going: when. "": as is usual otherwise."""

    visibility: Visibility | Literal[""] = ""
    goes_to: GoesTo | Literal[""] = ""
    going: Going | Literal[""] = ""
    template: Short = ""
    points: list[UsualPoint] = Field([], max_length=60)
    readers: list[Number] = Field([], max_length=2000)
    receivers: list[Number] = Field([], max_length=2000)


class SeriesOut(Schema):
    """count: of the meetings that I see; of these the latest are in `meetings`."""

    id: int
    name: str
    count: int
    meetings: list[RowOut]
    people: list[ThereOut]
    open: list[MatterOut]
    stand: list[MatterOut]
    airtime: list[SpokenOut]
    usual: UsualOut | None
    """For those who arrange what the workspace keeps."""


class SeriesPatch(Schema):
    """merge: where another has that name, the two become one."""

    name: Name
    merge: bool = False


class SeriesNameOut(Schema):
    id: int
    name: str


class NeighbourOut(Schema):
    id: UUID
    title: str
    started_at: datetime


class NeighboursOut(Schema):
    series: SeriesNameOut | None
    before: NeighbourOut | None
    after: NeighbourOut | None


def _matter(finding: Finding) -> dict:
    return {
        "id": finding.pk,
        "kind": finding.kind,
        "text": finding.text,
        "whose": finding.owner.name if finding.owner else finding.owner_name,
        "due": finding.due,
        "meeting": finding.meeting_id,
        "title": finding.meeting.title,
        "started_at": finding.meeting.started_at,
        "line": min((line.number for line in finding.lines.all()), default=None),
    }


@router.get("/{series_id}", response=SeriesOut)
def about(request: HttpRequest, series_id: Number) -> Answer:
    """A series over time, as far as I see it."""
    membership = membership_of(request)
    known = about_series(membership, series_id)
    return {
        "id": known.series.pk,
        "name": known.series.name,
        "count": known.count,
        "meetings": [row_of(one) for one in known.meetings],
        "people": [{"id": one.pk, "name": one.name, "times": times} for one, times in known.people],
        "open": [_matter(one) for one in known.open],
        "stand": [_matter(one) for one in known.stand],
        "airtime": [{"meeting": one.pk, "started_at": one.started_at, "shares": shares} for one, shares in known.airtime],
        "usual": _usual(Usual.objects.filter(series=known.series).first()) if may(membership, Can.ARRANGE) else None,
    }


def _usual(usual: Usual | None) -> dict:
    if usual is None:
        return {"visibility": "", "goes_to": "", "going": "", "template": "", "points": [], "readers": [], "receivers": []}
    return {
        "visibility": usual.visibility,
        "goes_to": usual.goes_to,
        "going": usual.going,
        "template": usual.template,
        "points": [{"text": text, "minutes": minutes} for text, minutes in usual.points],
        "readers": list(usual.readers.values_list("pk", flat=True)),
        "receivers": list(usual.receivers.values_list("pk", flat=True)),
    }


@router.put("/{series_id}/usual", response=UsualOut)
def say_usual(request: HttpRequest, series_id: Number, payload: UsualOut) -> Answer:
    """Say what is usual in it; meetings that are there already stay as they are."""
    membership = membership_of(request)
    series, _ = series_of(membership, series_id)
    points = [(one.text, one.minutes) for one in payload.points]
    return _usual(
        set_usual(
            membership,
            series,
            visibility=payload.visibility,
            goes_to=payload.goes_to,
            going=payload.going,
            template=payload.template,
            points=points,
            readers=payload.readers,
            receivers=payload.receivers,
        )
    )


@router.patch("/{series_id}", response=SeriesNameOut)
def rename(request: HttpRequest, series_id: Number, payload: SeriesPatch) -> Answer:
    """Call it otherwise."""
    membership = membership_of(request)
    series, _ = series_of(membership, series_id)
    return rename_series(membership, series, payload.name, merge=payload.merge)


@meeting_router.get("/{meeting_id}/neighbours", response=NeighboursOut)
def beside(request: HttpRequest, meeting_id: UUID) -> Answer:
    """The meetings of its series before and after it."""
    return neighbours(*seen(request, meeting_id))
