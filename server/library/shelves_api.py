"""Shelves."""

from __future__ import annotations

from uuid import UUID

from django.db.models import Count
from django.http import HttpRequest
from ninja import Field, Router, Schema

from server.accounts.current import membership_of, signed_in
from server.accounts.models import Membership, Role
from server.answers import Answer
from server.bounds import Name, Number
from server.convening.seen import seen
from server.library.actions import keep_shelf as act
from server.library.series import series_of
from server.library.shelves import on_shelf, place_at, shelf_of, shelves_of
from server.meetings.models import Shelf, ShelfPlace
from server.problems import Refused
from server.sharing.policy import Can, may
from server.sharing.visibility import listed_meetings

router = Router(tags=["shelves"], auth=signed_in)
meeting_router = Router(tags=["shelves"], auth=signed_in)


class ShelfIn(Schema):
    name: Name
    about: str = Field("", max_length=400)
    closed: bool = False


class ShelfRowOut(Schema):
    """mine: I have a place at it. meetings: that I see on it."""

    id: int
    name: str
    about: str
    closed: bool
    mine: bool
    keeper: bool
    meetings: int
    places: int


class AtShelfOut(Schema):
    """Somebody with a place at it."""

    member: int
    name: str
    role: Role
    keeper: bool


class OnShelfOut(Schema):
    """A series that comes onto it by itself."""

    id: int
    name: str


class ShelfOut(ShelfRowOut):
    people: list[AtShelfOut]
    series: list[OnShelfOut]


class PlaceIn(Schema):
    member: Number
    keeper: bool = False


class PlacesIn(Schema):
    places: list[PlaceIn] = Field(max_length=2000)


class OfMeetingOut(Schema):
    """A shelf that I know of: does the meeting stand on it, and may I put it there or take it off?"""

    id: int
    name: str
    closed: bool
    there: bool
    may: bool


def _row(shelf: Shelf, place: ShelfPlace | None, meetings: int, places: int) -> dict:
    return {
        "id": shelf.pk,
        "name": shelf.name,
        "about": shelf.about,
        "closed": shelf.closed,
        "mine": place is not None,
        "keeper": place is not None and place.keeper,
        "meetings": meetings,
        "places": places,
    }


def _shelf(membership: Membership, shelf: Shelf) -> dict:
    at_it = list(shelf.places.select_related("membership__user").order_by("-keeper", "membership__user__name", "pk"))
    knows = may(membership, Can.KNOW_TEAM)
    people = [{"member": one.membership_id, "name": one.membership.user.called, "role": one.membership.role, "keeper": one.keeper} for one in at_it if knows]
    return {
        **_row(shelf, place_at(membership, shelf), on_shelf(membership, shelf).count(), len(at_it)),
        "people": people,
        "series": [{"id": one.pk, "name": one.name} for one in shelf.series.order_by("name") if knows],
    }


@router.get("", response=list[ShelfRowOut])
def shelves(request: HttpRequest) -> Answer:
    """The shelves that I know of: where I have a place, and those that are open."""
    membership = membership_of(request)
    counted = dict(
        listed_meetings(membership).filter(shelved__shelf__in=shelves_of(membership)).order_by().values_list("shelved__shelf").annotate(count=Count("pk"))
    )
    own = {place.shelf_id: place for place in membership.shelf_places.all()}
    return [_row(one, own.get(one.pk), counted.get(one.pk, 0), one.seats) for one in shelves_of(membership).annotate(seats=Count("places"))]


@router.post("", response={201: ShelfOut})
def make(request: HttpRequest, payload: ShelfIn) -> Answer:
    """Make one, and be its keeper."""
    membership = membership_of(request)
    return 201, _shelf(membership, act.make_shelf(membership, payload.name, payload.about, closed=payload.closed))


@router.get("/{shelf_id}", response=ShelfOut)
def shelf(request: HttpRequest, shelf_id: Number) -> Answer:
    """One shelf; what stands on it is the library narrowed to it."""
    membership = membership_of(request)
    return _shelf(membership, shelf_of(membership, shelf_id))


@router.put("/{shelf_id}", response=ShelfOut)
def change(request: HttpRequest, shelf_id: Number, payload: ShelfIn) -> Answer:
    """Call it otherwise, open or close it."""
    membership = membership_of(request)
    found = act.change_shelf(membership, shelf_of(membership, shelf_id), payload.name, payload.about, closed=payload.closed)
    return _shelf(membership, found)


@router.delete("/{shelf_id}", response={204: None})
def take_down(request: HttpRequest, shelf_id: Number) -> Answer:
    """Take it down; it cannot be had back. The meetings stay."""
    membership = membership_of(request)
    act.take_down(membership, shelf_of(membership, shelf_id))
    return 204, None


@router.post("/{shelf_id}/join", response=ShelfOut)
def join(request: HttpRequest, shelf_id: Number) -> Answer:
    """Take a place at an open one."""
    membership = membership_of(request)
    found = shelf_of(membership, shelf_id)
    act.join_shelf(membership, found)
    return _shelf(membership, found)


@router.post("/{shelf_id}/leave", response={204: None})
def leave(request: HttpRequest, shelf_id: Number) -> Answer:
    """Give my place up."""
    membership = membership_of(request)
    act.leave_shelf(membership, shelf_of(membership, shelf_id))
    return 204, None


@router.put("/{shelf_id}/places", response=ShelfOut)
def seat(request: HttpRequest, shelf_id: Number, payload: PlacesIn) -> Answer:
    """Say who has a place at it, and who keeps it."""
    membership = membership_of(request)
    found = shelf_of(membership, shelf_id)
    act.seat(membership, found, {one.member: one.keeper for one in payload.places})
    if place_at(membership, found) is None and found.closed:
        raise Refused(404, "You have no place at this shelf any more.")
    return _shelf(membership, found)


@router.put("/{shelf_id}/meetings/{meeting_id}", response={204: None})
def put_on(request: HttpRequest, shelf_id: Number, meeting_id: UUID) -> Answer:
    """Let those of the shelf see a meeting."""
    membership, meeting = seen(request, meeting_id)
    act.put_on(membership, shelf_of(membership, shelf_id), meeting)
    return 204, None


@router.delete("/{shelf_id}/meetings/{meeting_id}", response={204: None})
def take_off(request: HttpRequest, shelf_id: Number, meeting_id: UUID) -> Answer:
    """Take it off again."""
    membership, meeting = seen(request, meeting_id)
    act.take_off(membership, shelf_of(membership, shelf_id), meeting)
    return 204, None


@router.put("/{shelf_id}/series/{series_id}", response=ShelfOut)
def put_series_on(request: HttpRequest, shelf_id: Number, series_id: Number) -> Answer:
    """Have a series come onto it by itself."""
    membership = membership_of(request)
    found = shelf_of(membership, shelf_id)
    act.put_series_on(membership, found, series_of(membership, series_id)[0])
    return _shelf(membership, found)


@router.delete("/{shelf_id}/series/{series_id}", response=ShelfOut)
def take_series_off(request: HttpRequest, shelf_id: Number, series_id: Number) -> Answer:
    """No longer."""
    membership = membership_of(request)
    found = shelf_of(membership, shelf_id)
    act.take_series_off(membership, found, series_of(membership, series_id)[0])
    return _shelf(membership, found)


@meeting_router.get("/{meeting_id}/shelves", response=list[OfMeetingOut])
def of_meeting(request: HttpRequest, meeting_id: UUID) -> Answer:
    """The shelves at which I have a place, and whether a meeting stands on them."""
    membership, meeting = seen(request, meeting_id)
    there = set(meeting.shelved.values_list("shelf", flat=True))
    governs = may(membership, Can.GOVERN, meeting)
    own = {place.shelf_id: place for place in membership.shelf_places.all()}
    return [
        {
            "id": one.pk,
            "name": one.name,
            "closed": one.closed,
            "there": one.pk in there,
            "may": governs or one.pk in there and own[one.pk].keeper,
        }
        for one in shelves_of(membership)
        if one.pk in own
    ]
