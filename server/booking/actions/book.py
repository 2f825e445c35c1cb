"""Book a time, move it, call it off: by somebody without an account, with the link that they were sent; or by whose time it is."""

from __future__ import annotations

import secrets
from datetime import datetime, timedelta
from functools import partial

from django.conf import settings
from django.db.backends.postgresql.psycopg_any import DateTimeTZRange
from procrastinate.contrib.django import app

from core.text import one_line, prose
from server.accounts.models import Membership
from server.acting import acting
from server.agenda.actions.run_agenda import prepare
from server.booking.keep import kept_free, note_booked, note_called_off, note_moved
from server.booking.models import Booking, BookingPage, BookingState
from server.booking.queries import digest_of, is_free
from server.languages import LONG_HOUR, at, translated
from server.mail.post import post
from server.mail.wording import Kind
from server.pipeline.work import Queue
from server.problems import Refused

_TAKEN = "Somebody was quicker, or it is not free any more. Choose another time."


def book(page: BookingPage, start: datetime, name: str, email: str, zone: str, note: str) -> tuple[Booking, str]:
    """The booking, and the token of the link by which it is moved and called off. Raises Refused."""
    name, email = one_line(name)[:120], one_line(email).lower()[:254]
    with acting(None, None, "book"):
        if not name:
            raise Refused(422, "Say who you are.")
        if not is_free(page, start):
            raise Refused(409, _TAKEN)
        token = secrets.token_urlsafe(24)
        booking = Booking(page=page, membership=page.membership, name=name, email=email, zone=zone, note=prose(note).strip()[:2000], digest=digest_of(token))
        _at(booking, start)
        kept_free(booking, _TAKEN)
        if page.points:
            prepare(page.membership, booking.uid, "", [(text, minutes) for text, minutes in page.points])
        _tell(booking, token, "booked")
        note_booked(booking)
    return booking, token


def move(booking: Booking, token: str, start: datetime) -> Booking:
    """To another free time. Raises Refused."""
    with acting(None, None, "move booking"):
        booking = _open(booking)
        if not is_free(booking.page, start, without=booking):
            raise Refused(409, _TAKEN)
        _at(booking, start)
        booking.revision += 1
        kept_free(booking, _TAKEN)
        _tell(booking, token, "moved")
        note_moved(booking)
    return booking


def call_off(booking: Booking, by: Membership | None = None) -> Booking:
    """by: whose time it is; None: who booked it. It cannot be undone: another time can be booked. Raises Refused."""
    with acting(by, None, "call booking off"):
        booking = _open(booking)
        booking.state, booking.revision = BookingState.CALLED_OFF, booking.revision + 1
        booking.save()
        _tell(booking, "", "called off")
        if by is None:
            note_called_off(booking)
    return booking


def _open(booking: Booking) -> Booking:
    found = Booking.objects.select_for_update(of=("self",)).select_related("page__membership__user", "page__membership__workspace", "page__calendar").get(pk=booking.pk)
    if found.state != BookingState.BOOKED:
        raise Refused(409, "This was called off. Book another time.")
    return found


def _at(booking: Booking, start: datetime) -> None:
    booking.start, booking.end = start, start + timedelta(minutes=booking.page.length)
    booking.span = DateTimeTZRange(booking.start, booking.end + timedelta(minutes=booking.page.pause))


def _tell(booking: Booking, token: str, what: str) -> None:
    """Both, each on their own clocks, with the appointment as a file; and have it written into the calendar."""
    page, host = booking.page, booking.page.membership.user
    link = f"{settings.BASE_URL}/booked/{token}" if token else ""
    guest = f"{booking.name} <{booking.email}>"
    for to, way, answers_to, zone, who, note in (
        (booking.email, link, host.email, booking.zone, host.called, ""),
        (host.email, f"{settings.BASE_URL}/booking", booking.email, host.time_zone or page.zone, guest, booking.note),
    ):
        post(
            Kind.BOOKING,
            to,
            workspace=page.membership.workspace,
            link=way,
            reply_to=answers_to,
            attached=f"booking {booking.pk}",
            title=page.title,
            what=partial(translated, what),
            when=partial(_when, booking, zone),
            who=who,
            place=page.link,
            note=note,
        )
    app.configure_task("write booking", queue=Queue.CALENDARS, lock=f"booking-{booking.pk}").defer(booking_id=str(booking.pk))


def _when(booking: Booking, zone: str) -> str:
    return f"{at(booking.start, LONG_HOUR, zone)} ({zone.replace('_', ' ')})"
