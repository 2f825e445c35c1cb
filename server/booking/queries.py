"""When a page can be booked, and who has booked it."""

from __future__ import annotations

import hashlib
from datetime import date, datetime, timedelta

from django.utils import timezone

from core.planning.appointment import Appointment
from core.planning.free_times import Taken, Terms, can_begin, free_times
from server.booking.models import Booking, BookingPage, BookingState
from server.calendars.models import Planned
from server.problems import Refused

_NOWHERE = "This link leads to no booking (any more)."


def terms_of(page: BookingPage) -> Terms:
    """As core has them."""
    hours = {int(day): tuple((start, end) for start, end in spans) for day, spans in page.hours.items()}
    return Terms(page.zone, hours, page.length, page.pause, page.step, page.notice, page.a_day, page.ahead)


def taken_of(page: BookingPage, since: datetime, until: datetime, without: Booking | None = None) -> Taken:
    """What its member has in that time: events of their calendars that take time, and what was booked, on whichever page."""
    planned = Planned.objects.filter(calendar__membership=page.membership_id, start__lt=until, end__gt=since, free=False).exclude(status="cancelled")
    if without:
        planned = planned.exclude(uid=without.uid)
    booked = Booking.objects.filter(membership=page.membership_id, state=BookingState.BOOKED, start__lt=until, end__gt=since)
    if without:
        booked = booked.exclude(pk=without.pk)
    rows = list(booked)
    spans = [*planned.values_list("start", "end"), *((one.start, one.end) for one in rows)]
    return Taken(spans, [one.start for one in rows if one.page_id == page.pk])


def free_of(page: BookingPage, first: date, days: int, without: Booking | None = None) -> list[datetime]:
    """When a booking can begin, of so many days from a day on."""
    since = datetime.combine(first - timedelta(days=2), datetime.min.time(), timezone.now().tzinfo)
    return free_times(terms_of(page), taken_of(page, since, since + timedelta(days=days + 4), without), timezone.now(), first, days)


def is_free(page: BookingPage, begins: datetime, without: Booking | None = None) -> bool:
    """Can one begin at this moment?"""
    around = timedelta(days=2)
    return can_begin(terms_of(page), taken_of(page, begins - around, begins + around, without), timezone.now(), begins)


def open_page(slug: str) -> BookingPage:
    """Raises Refused, in the same words whether there is none or it is closed."""
    found = BookingPage.objects.select_related("membership__user", "membership__workspace", "calendar").filter(slug=slug, open=True).first()
    if found is None:
        raise Refused(404, "Nothing can be booked here (any more). Ask whoever gave you this address.")
    return found


def digest_of(token: str) -> str:
    """By which a booking is found."""
    return hashlib.sha256(token.encode()).hexdigest()


def booking_of(token: str) -> Booking:
    """That of a link. Raises Refused."""
    found = Booking.objects.select_related("page__membership__user", "page__membership__workspace", "page__calendar").filter(digest=digest_of(token)).first()
    if found is None:
        raise Refused(404, _NOWHERE)
    return found


def as_appointment(booking: Booking) -> Appointment:
    """As it is written into calendars and letters."""
    page, host = booking.page, booking.page.membership.user
    points = [f"{number}. {text} ({minutes} min)" for number, (text, minutes) in enumerate(page.points, 1)]
    text = "\n".join([*([booking.note] if booking.note else []), *(["", *points] if points else [])]).strip()
    return Appointment(
        booking.uid,
        f"{page.title}: {booking.name}",
        booking.start,
        booking.end,
        page.zone,
        (host.called, host.email),
        (booking.name, booking.email),
        booking.revision,
        text,
        page.link,
        booking.made_at,
        called_off=booking.state == BookingState.CALLED_OFF,
    )
