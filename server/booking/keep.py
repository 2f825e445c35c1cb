"""Keeping a booking: no two of one member's meet, however many come at once; and writing it into their calendar (CalDAV)."""

from __future__ import annotations

from urllib.parse import urljoin, urlsplit
from uuid import UUID

import requests
from django.db import IntegrityError, transaction
from django.utils import timezone

from core.planning.appointment import to_ical
from core.problems import InputProblem
from server.audit.log import log
from server.booking.models import Booking, BookingState
from server.booking.queries import as_appointment
from server.calendars.tasks import queue_look
from server.mail.models import Letter
from server.mail.post import ATTACHED, Attached
from server.outward import Outward, trouble_of
from server.problems import Refused
from server.sealing import unseal


def kept_free(booking: Booking, taken: str) -> None:
    """In the transaction that is open. taken: what is said where the database finds another in that time. Raises Refused."""
    try:
        with transaction.atomic():
            booking.save()
    except IntegrityError as error:
        raise Refused(409, taken) from error


def write(key: UUID) -> None:
    """Put it into the calendar of its page, as it is now; or take it out. Raises InputProblem where that cannot be done now."""
    booking = Booking.objects.select_related("page__membership__user", "page__calendar__membership__user").filter(pk=key).first()
    if booking is None or booking.page.calendar is None or booking.written >= booking.revision:
        return
    calendar = booking.page.calendar
    address = urljoin(unseal(calendar.address), f"{booking.pk}.ics")
    host = urlsplit(address).hostname or ""
    session = Outward()
    session.auth = (calendar.username, unseal(calendar.secret))
    try:
        if booking.state == BookingState.CALLED_OFF:
            answer = session.delete(address)
            done = answer.status_code in (200, 204, 404, 410)
        else:
            # RFC 4791, 5.3.2: nothing that lies there is written over, the first time.
            headers = {"Content-Type": "text/calendar; charset=utf-8"} | ({"If-None-Match": "*"} if booking.written < 0 else {})
            answer = session.put(address, data=to_ical(as_appointment(booking), timezone.now()), headers=headers)
            done = answer.status_code in (200, 201, 204) or answer.status_code == 412 and booking.written < 0  # written by an earlier try
    except (requests.RequestException, OSError, ValueError) as error:
        raise InputProblem(trouble_of(error, host)) from error
    if not done:
        raise InputProblem(f"{host} does not take it: it answers {answer.status_code}. Check the account of this calendar.")
    with transaction.atomic():
        Booking.objects.filter(pk=key).update(written=booking.revision, trouble="", mark=answer.headers.get("ETag", "")[:400])
        queue_look(calendar)


def note_booked(booking: Booking) -> None:
    """For the audit: somebody without an account did it, and which page it was."""
    log(booking.membership.workspace, None, "booked", page=booking.page.title)


def note_moved(booking: Booking) -> None:
    """The same of one that was moved."""
    log(booking.membership.workspace, None, "booking moved", page=booking.page.title)


def note_called_off(booking: Booking) -> None:
    """And of one that was called off."""
    log(booking.membership.workspace, None, "booking called off", page=booking.page.title)


def _attached(letter: Letter, key: str) -> Attached:
    """The appointment, as mail carries it (RFC 6047)."""
    booking = Booking.objects.select_related("page__membership__user").get(pk=UUID(key))
    method = "CANCEL" if booking.state == BookingState.CALLED_OFF else "REQUEST"
    return Attached("appointment.ics", to_ical(as_appointment(booking), timezone.now(), method), f"text/calendar; method={method}")


ATTACHED["booking"] = _attached
