"""Pages on which one can be booked: one's own, and what somebody without an account sees and does there."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated
from uuid import UUID

from django.conf import settings
from django.http import HttpRequest
from django.middleware.csrf import get_token
from django.utils import timezone
from ninja import Query, Router, Schema
from pydantic import Field

from server.accounts.current import anybody, membership_of, signed_in
from server.accounts.models import Membership
from server.answers import Answer
from server.booking.actions.arrange_page import drop_page, keep_page
from server.booking.actions.book import book, call_off, move
from server.booking.models import Booking, BookingPage, BookingState
from server.booking.queries import booking_of, free_of, open_page
from server.bounds import Day, Moment, Name, Prose
from server.convening.api import Zoned
from server.counting import counted
from server.languages import OurWords
from server.problems import Refused
from server.sharing.policy import Can, require

router = Router(tags=["booking"], auth=signed_in)
open_router = Router(tags=["booking"], auth=anybody)
"""For somebody without an account."""
_TRIES, _HOUR = 30, 3600
Minutes = Annotated[int, Field(ge=0, le=24 * 60)]


class PageIn(Zoned):
    """hours: day of the week ("0" is Monday) → spans, from minute to minute of the day. calendar: the key of one of mine that is an account."""

    title: Annotated[Name, Field(min_length=1, max_length=120)]
    about: Prose = ""
    zone: str = Field("UTC", max_length=64)
    hours: dict[Annotated[str, Field(pattern=r"^[0-6]$")], list[tuple[Minutes, Minutes]]] = Field(default_factory=dict, max_length=7)
    length: int = Field(30, ge=5, le=480)
    pause: int = Field(0, ge=0, le=240)
    step: int = Field(30, ge=5, le=240)
    notice: int = Field(24 * 60, ge=0, le=60 * 24 * 60)
    a_day: int | None = Field(None, ge=1, le=50)
    ahead: int = Field(60, ge=1, le=60)
    calendar: UUID | None = None
    link: str = Field("", max_length=2000)
    points: list[tuple[Name, Minutes]] = Field(default_factory=list, max_length=40)
    open: bool = True


class BookingOut(Schema):
    """trouble: why it is not in the calendar yet. written: it is."""

    id: UUID
    page: UUID
    title: str
    start: datetime
    end: datetime
    name: str
    email: str
    note: str
    state: BookingState
    written: bool
    trouble: OurWords


class BookingPageOut(Schema):
    """address: for whoever is to book. hours, points: as they are given; pairs are lists here, as not every reader of the document knows tuples."""

    id: UUID
    address: str
    title: str
    about: str
    zone: str
    hours: dict[str, list[list[int]]]
    length: int
    pause: int
    step: int
    notice: int
    a_day: int | None
    ahead: int
    calendar: UUID | None
    link: str
    points: list[list[str | int]]
    open: bool


class BookingsOut(Schema):
    pages: list[BookingPageOut]
    bookings: list[BookingOut]


class OpenPageOut(Schema):
    """What somebody without an account is shown: nothing of what is in the calendar."""

    title: str
    about: str
    host: str
    zone: str
    length: int
    ahead: int


class FreeIn(Schema):
    """Days as the page's zone has them. without: the link of a booking that is to be moved, whose own time counts as free."""

    first: Day
    days: int = Field(14, ge=1, le=31)
    without: Annotated[str, Field(max_length=64)] = ""


class FreeOut(Schema):
    times: list[datetime]


class BookIn(Zoned):
    """time_zone: the zone of whoever books."""

    start: Moment
    name: Annotated[Name, Field(min_length=1, max_length=120)]
    email: Annotated[str, Field(max_length=254, pattern=r"^[^@\s<>]+@[^@\s<>]+\.[^@\s<>]+$")]
    time_zone: str = Field("UTC", max_length=64)
    note: Prose = ""


class BookedOut(Schema):
    """slug: of the page. token: by which it is moved and called off; None where it is known already."""

    slug: str
    title: str
    host: str
    start: datetime
    end: datetime
    zone: str
    name: str
    link: str
    state: BookingState
    token: str | None


class MoveIn(Schema):
    start: Moment


def _page(page: BookingPage) -> dict:
    told = ("id", "title", "about", "zone", "hours", "length", "pause", "step", "notice", "a_day", "ahead", "link", "points", "open")
    return {**{name: getattr(page, name) for name in told}, "address": f"{settings.BASE_URL}/book/{page.slug}", "calendar": page.calendar_id}


def _booking(booking: Booking) -> dict:
    told = ("id", "start", "end", "name", "email", "note", "state", "trouble")
    return {**{name: getattr(booking, name) for name in told}, "page": booking.page_id, "title": booking.page.title, "written": booking.written >= booking.revision}


def _booked(booking: Booking, token: str | None = None) -> dict:
    page = booking.page
    told = {name: getattr(booking, name) for name in ("start", "end", "zone", "name", "state")}
    return {**told, "slug": page.slug, "title": page.title, "host": page.membership.user.called, "link": page.link, "token": token}


def _page_of(membership: Membership, key: UUID) -> BookingPage:
    found = membership.booking_pages.filter(pk=key).first()
    if found is None:
        raise Refused(404, "There is no such page of yours (any more).")
    return found


def _counted(request: HttpRequest) -> None:
    if counted(f"booking-{request.META.get('REMOTE_ADDR')}", _HOUR) > _TRIES:
        raise Refused(429, f"{_TRIES} bookings were made or changed from here within an hour, which is the most there is. Try again later.")


@router.get("", response=BookingsOut)
def mine(request: HttpRequest) -> Answer:
    """My pages, and what is booked by them."""
    membership = membership_of(request)
    require(membership, Can.ADD)
    coming = membership.bookings.filter(end__gt=timezone.now()).select_related("page").order_by("start")[:200]
    return {"pages": [_page(one) for one in membership.booking_pages.all()], "bookings": [_booking(one) for one in coming]}


@router.post("", response={201: BookingPageOut})
def make_page(request: HttpRequest, payload: PageIn) -> Answer:
    """Make a page."""
    return 201, _page(keep_page(membership_of(request), None, payload.dict()))


@router.put("/{page_id}", response=BookingPageOut)
def change_page(request: HttpRequest, page_id: UUID, payload: PageIn) -> Answer:
    """As it is given now. What was booked stays as it was."""
    membership = membership_of(request)
    return _page(keep_page(membership, _page_of(membership, page_id), payload.dict()))


@router.delete("/{page_id}", response={204: None})
def drop(request: HttpRequest, page_id: UUID) -> Answer:
    """Take it away, once nothing is booked by it."""
    membership = membership_of(request)
    drop_page(membership, _page_of(membership, page_id))
    return 204, None


@router.post("/booked/{booking_id}/off", response=BookingOut)
def off(request: HttpRequest, booking_id: UUID) -> Answer:
    """Call a booking of my time off. Whoever booked is told."""
    membership = membership_of(request)
    found = membership.bookings.filter(pk=booking_id).first()
    if found is None:
        raise Refused(404, "There is no such booking of your time.")
    return _booking(call_off(found, membership))


@open_router.get("/{slug}", response=OpenPageOut)
def page(request: HttpRequest, slug: str) -> Answer:
    """What can be booked."""
    get_token(request)  # so that its page can send
    found = open_page(slug)
    return {**{name: getattr(found, name) for name in ("title", "about", "zone", "length", "ahead")}, "host": found.membership.user.called}


@open_router.get("/{slug}/free", response=FreeOut)
def free(request: HttpRequest, slug: str, asked: Query[FreeIn]) -> Answer:
    """When."""
    found = open_page(slug)
    own = booking_of(asked.without) if asked.without else None
    first: date = asked.first
    return {"times": free_of(found, first, asked.days, own if own and own.page_id == found.pk else None)}


@open_router.post("/{slug}", response={201: BookedOut})
def book_it(request: HttpRequest, slug: str, payload: BookIn) -> Answer:
    """Book a time."""
    found = open_page(slug)
    _counted(request)
    booking, token = book(found, payload.start, payload.name, payload.email, payload.time_zone, payload.note)
    return 201, _booked(booking, token)


@open_router.get("/mine/{token}", response=BookedOut)
def booked(request: HttpRequest, token: str) -> Answer:
    """What was booked by this link."""
    get_token(request)  # so that its page can send
    return _booked(booking_of(token))


@open_router.post("/mine/{token}/move", response=BookedOut)
def move_it(request: HttpRequest, token: str, payload: MoveIn) -> Answer:
    """Move it to another free time."""
    _counted(request)
    return _booked(move(booking_of(token), token, payload.start))


@open_router.post("/mine/{token}/off", response=BookedOut)
def call_it_off(request: HttpRequest, token: str) -> Answer:
    """Call it off."""
    return _booked(call_off(booking_of(token)))
