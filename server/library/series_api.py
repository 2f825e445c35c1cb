"""Series."""

from __future__ import annotations

from datetime import date, datetime
from typing import Literal
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema

from server.accounts.current import membership_of, signed_in
from server.answers import Answer
from server.bounds import Name, Number
from server.convening.seen import seen
from server.library.actions.rename_series import rename_series
from server.library.rows import RowOut, row_of
from server.library.series import about_series, neighbours, series_of
from server.minutes.models import Finding

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

    name: str
    times: int


class ShareOut(Schema):
    name: str
    share: float


class SpokenOut(Schema):
    meeting: UUID
    started_at: datetime
    shares: list[ShareOut]


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
    known = about_series(membership_of(request), series_id)
    return {
        "id": known.series.pk,
        "name": known.series.name,
        "count": known.count,
        "meetings": [row_of(one) for one in known.meetings],
        "people": [{"name": one.name, "times": times} for one, times in known.people],
        "open": [_matter(one) for one in known.open],
        "stand": [_matter(one) for one in known.stand],
        "airtime": [{"meeting": one.pk, "started_at": one.started_at, "shares": shares} for one, shares in known.airtime],
    }


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
