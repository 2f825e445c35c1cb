"""Make a page on which one can be booked, change it, close it, take it away."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from core.planning.free_times import check_hours
from core.problems import InputProblem
from core.text import one_line, prose
from server.accounts.models import Membership
from server.acting import acting
from server.booking.models import BookingPage, BookingState
from server.calendars.models import Calendar, CalendarKind
from server.outward import settled
from server.problems import Refused
from server.sharing.policy import Can

MOST = 10


def keep_page(membership: Membership, page: BookingPage | None, given: Mapping[str, Any]) -> BookingPage:
    """A new one, or one's own with what is given anew. What was booked stays as it was. Raises Refused."""
    with acting(membership, Can.ADD, "keep booking page", new=page is None):
        if page is None:
            if membership.booking_pages.count() >= MOST:
                raise Refused(409, f"You have {MOST} of these, which is as many as there can be. Take one away first.")
            page = BookingPage(membership=membership, zone=membership.user.time_zone or "UTC")
        for name, value in given.items():
            if name not in ("calendar", "hours", "points"):
                setattr(page, name, value)
        if "hours" in given:
            if wrong := check_hours({int(day): spans for day, spans in given["hours"].items()}):
                raise Refused(422, " ".join(wrong))
            page.hours = {str(day): [list(span) for span in spans] for day, spans in given["hours"].items() if spans}
        if "points" in given:
            page.points = _points(given["points"])
        if "calendar" in given:
            page.calendar = _calendar(membership, given["calendar"])
        page.title, page.about = one_line(page.title)[:120], prose(page.about).strip()
        _check(page)
        page.save()
    return page


def drop_page(membership: Membership, page: BookingPage) -> None:
    """Nobody books by it any more. Raises Refused as long as something is booked: that is called off first."""
    with acting(membership, Can.ADD, "drop booking page"):
        if page.bookings.filter(state=BookingState.BOOKED).exists():
            raise Refused(409, "Something is booked by this page. Call that off first, or close the page: then nothing more is booked.")
        page.delete()


def _points(points: Sequence[tuple[str, int]]) -> list[list[Any]]:
    return [[one_line(text)[:200], minutes] for text, minutes in points if one_line(text)]


def _calendar(membership: Membership, key: Any) -> Calendar | None:
    if key is None:
        return None
    found = membership.calendars.filter(pk=key, kind=CalendarKind.ACCOUNT).first()
    if found is None:
        raise Refused(422, "What is booked is written into a calendar of an account of yours (CalDAV). Connect one first.")
    return found


def _check(page: BookingPage) -> None:
    if not page.title:
        raise Refused(422, "Say what is booked, such as “Half an hour about the glass”.")
    try:
        ZoneInfo(page.zone)
    except (ZoneInfoNotFoundError, ValueError, OSError) as error:
        raise Refused(422, f"{page.zone!r} is no time zone.") from error
    if page.link:
        try:
            page.link = settled(page.link, secret=False)
        except InputProblem as problem:
            raise Refused(422, str(problem)) from problem
