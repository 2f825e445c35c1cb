"""Make a shelf, change it, join it, put meetings onto it."""

from __future__ import annotations

from collections.abc import Mapping

from core.text import one_line
from server.accounts.models import Membership
from server.acting import acting
from server.library.shelves import place_at
from server.meetings.models import Meeting, Series, Shelf, ShelfPlace, Shelved
from server.notify import Part
from server.problems import Refused
from server.sharing.policy import Can, may
from server.sharing.visibility import listed_meetings

_MOST = 500
"""Shelves of a workspace."""
_KEEPERS = "What stands on a shelf, and who has a place at it, is for its keepers to say. Ask one of them."


def make_shelf(membership: Membership, name: str, about: str, *, closed: bool) -> Shelf:
    """With its maker for a keeper. Raises Refused."""
    with acting(membership, Can.ARRANGE, "make shelf", closed=closed):
        if Shelf.objects.filter(workspace=membership.workspace).count() >= _MOST:
            raise Refused(409, f"There are {_MOST} shelves, which is as many as there can be.")
        shelf = Shelf.objects.create(workspace=membership.workspace, name=_named(name), about=one_line(about)[:400], closed=closed)
        ShelfPlace.objects.create(shelf=shelf, membership=membership, keeper=True)
    return shelf


def change_shelf(membership: Membership, shelf: Shelf, name: str, about: str, *, closed: bool) -> Shelf:
    """Call it otherwise, open or close it: who has a place keeps it. Raises Refused."""
    with acting(membership, None, "change shelf", closed=closed):
        _require_keeper(membership, shelf)
        shelf.name, shelf.about, shelf.closed = _named(name), one_line(about)[:400], closed
        shelf.save(update_fields=["name", "about", "closed"])
    return shelf


def take_down(membership: Membership, shelf: Shelf) -> None:
    """The shelf is gone; its meetings are where they were, seen by those who see them without it. Raises Refused."""
    with acting(membership, None, "take down shelf"):
        _require_keeper(membership, shelf)
        shelf.delete()


def join_shelf(membership: Membership, shelf: Shelf) -> None:
    """Take a place at an open one. Raises Refused."""
    with acting(membership, Can.SEE_SHARED, "join shelf"):
        if shelf.closed:
            raise Refused(403, "This shelf is closed. A keeper of it lets people in.")
        ShelfPlace.objects.get_or_create(shelf=shelf, membership=membership)


def leave_shelf(membership: Membership, shelf: Shelf) -> None:
    """Give up one's place. Raises Refused for the last keeper."""
    with acting(membership, None, "leave shelf"):
        list(ShelfPlace.objects.select_for_update().filter(shelf=shelf))
        place = place_at(membership, shelf)
        if place and place.keeper and not shelf.places.filter(keeper=True).exclude(pk=place.pk).exists():
            raise Refused(409, "You are its last keeper. Make somebody else a keeper first, or take the shelf down.")
        if place:
            place.delete()


def seat(membership: Membership, shelf: Shelf, places: Mapping[int, bool]) -> None:
    """Who has a place, from now on: key of a membership → keeper. Raises Refused."""
    with acting(membership, None, "seat at shelf", places=len(places)):
        _require_keeper(membership, shelf)
        members = set(Membership.objects.filter(workspace=shelf.workspace_id, pk__in=places).values_list("pk", flat=True))
        if not any(keeper for member, keeper in places.items() if member in members):
            raise Refused(422, "A shelf has a keeper. Make somebody one.")
        shelf.places.exclude(membership__in=members).delete()
        for member in members:
            ShelfPlace.objects.update_or_create(shelf=shelf, membership_id=member, defaults={"keeper": places[member]})


def put_on(membership: Membership, shelf: Shelf, meeting: Meeting) -> None:
    """Let those of a shelf see a meeting: for who governs it, and has a place there. Raises Refused."""
    with acting(membership, Can.GOVERN, "put on shelf", meeting, tells=(Part.MEETING,)):
        if place_at(membership, shelf) is None:
            raise Refused(403, "You have no place at this shelf. Join it first.")
        Shelved.objects.get_or_create(shelf=shelf, meeting=meeting, defaults={"by": membership.user})


def take_off(membership: Membership, shelf: Shelf, meeting: Meeting) -> None:
    """For who governs the meeting, and for keepers. Raises Refused."""
    with acting(membership, None, "take off shelf", meeting, tells=(Part.MEETING,)):
        if not may(membership, Can.GOVERN, meeting):
            _require_keeper(membership, shelf)
        Shelved.objects.filter(shelf=shelf, meeting=meeting).delete()


def put_series_on(membership: Membership, shelf: Shelf, series: Series) -> int:
    """Its meetings stand on it: of those there are, the ones that the caller governs; of those to come, each whose maker has a place there.
    Returns how many stand there now. Raises Refused."""
    with acting(membership, None, "put series on shelf"):
        _require_keeper(membership, shelf)
        shelf.series.add(series)
        governed = [one for one in listed_meetings(membership).filter(series=series) if may(membership, Can.GOVERN, one)]
        Shelved.objects.bulk_create([Shelved(shelf=shelf, meeting=one) for one in governed], ignore_conflicts=True)
    return shelf.shelved.filter(meeting__series=series).count()


def take_series_off(membership: Membership, shelf: Shelf, series: Series) -> None:
    """What is to come stands there no more, nor what came with the series. Raises Refused."""
    with acting(membership, None, "take series off shelf"):
        _require_keeper(membership, shelf)
        shelf.series.remove(series)
        Shelved.objects.filter(shelf=shelf, meeting__series=series, by=None).delete()


def _named(name: str) -> str:
    called = one_line(name)[:120]
    if not called:
        raise Refused(422, "A shelf has a name.")
    return called


def _require_keeper(membership: Membership, shelf: Shelf) -> None:
    place = place_at(membership, shelf)
    if place is None or not place.keeper:
        raise Refused(403, _KEEPERS)
