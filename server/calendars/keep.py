"""Looking at a calendar: what is new of it is kept, and laid out over the weeks around today."""

from __future__ import annotations

import logging
from datetime import datetime, timedelta

from caldav.lib.error import AuthorizationError, DAVError
from django.conf import settings
from django.db import transaction
from django.utils import timezone

from core.planning.events import Event, read_events
from core.planning.links import conferences, link_in
from core.problems import InputProblem
from core.text import prose
from server.calendars.models import Calendar, Part, Planned
from server.calendars.sources import SOURCES, Fetched
from server.outward import later, trouble_of

logger = logging.getLogger("server.calendars")

EVERY = timedelta(minutes=5)
BEHIND, AHEAD = timedelta(days=35), timedelta(days=63)
"""The weeks that it is laid out over."""
_MOST_TROUBLES = 20


def look(calendar: Calendar) -> None:
    """Ask for what is new, and keep it. What cannot be had is said in `trouble`, what was there stays, and it is tried again, later each time."""
    try:
        fetched = SOURCES[calendar.kind](calendar)
    except (DAVError, OSError, ValueError) as error:
        logger.info("calendar %s: %s", calendar.pk, type(error).__name__)
        said = _trouble(calendar, error)
        fails = calendar.fails + 1
        Calendar.objects.filter(pk=calendar.pk).update(trouble=said, fails=fails, next_at=later(EVERY, fails))
        return
    try:
        store(calendar, fetched)
    except InputProblem as problem:
        Calendar.objects.filter(pk=calendar.pk).update(trouble=str(problem), fails=calendar.fails + 1, next_at=timezone.now() + EVERY)


def store(calendar: Calendar, fetched: Fetched) -> None:
    """Keep what has come and lay the calendar out anew. Raises InputProblem for what is no calendar; then all stays as it was."""
    with transaction.atomic():
        calendar = Calendar.objects.select_for_update(of=("self",)).select_related("membership__user", "membership__workspace").filter(pk=calendar.pk).first() or calendar
        if fetched.whole:
            calendar.parts.exclude(href__in=fetched.parts).delete()
        calendar.parts.filter(href__in=fetched.gone).delete()
        for href, data in fetched.parts.items():
            Part.objects.update_or_create(calendar=calendar, href=href, defaults={"data": data.replace("\x00", "")})
        now = timezone.now()
        # The weeks around now move by a day at a time: without anything new, more often would give the same again.
        if not fetched.nothing or calendar.looked_at is None or calendar.looked_at.date() != now.date():
            calendar.unread = lay_out(calendar, now)[:_MOST_TROUBLES]
        if not fetched.nothing:
            calendar.etag, calendar.modified = fetched.etag, fetched.modified
        calendar.token = fetched.token or calendar.token
        calendar.looked_at, calendar.next_at = now, now + (EVERY if calendar.kind in SOURCES else timedelta(hours=12))
        calendar.trouble, calendar.fails = "", 0
        calendar.save()


def lay_out(calendar: Calendar, now: datetime) -> list[str]:
    """The instances of the weeks around now, in the transaction that is open; those that stay keep their keys. Returns what could not be read."""
    zone = calendar.membership.user.time_zone or "UTC"
    known = conferences(settings.CONFERENCES)
    clerk = calendar.membership.workspace.clerk_address
    kept: set[int] = set()
    troubles: list[str] = []
    for part in calendar.parts.all():
        found = read_events(part.data.encode(), now - BEHIND, now + AHEAD, zone)
        troubles += found.troubles
        if found.name and not calendar.name:
            calendar.name = found.name
        for event in found.events:
            row, _ = Planned.objects.update_or_create(
                calendar=calendar, uid=event.uid, instance=event.instance, defaults=_columns(event, known, clerk)
            )
            kept.add(row.pk)
    calendar.planned.exclude(pk__in=kept).delete()
    return troubles


def _columns(event: Event, known: dict[str, str], clerk: str) -> dict:
    link = link_in(event.sources, known)
    called = event.organiser
    people = [
        {"name": one.name, "address": one.address, "answer": one.answer, "called": called is not None and one.address == called.address}
        for one in event.invited
        if not clerk or one.address != clerk
    ]
    asked = len(people) < len(event.invited)
    if called and not any(one["called"] for one in people):
        people.insert(0, {"name": called.name, "address": called.address, "answer": "accepted", "called": True})
    return {
        "title": event.title,
        "start": event.start,
        "end": event.end,
        "zone": event.zone,
        "all_day": event.all_day,
        "status": event.status,
        "private": event.private,
        "free": event.free,
        "recurs": event.recurs,
        "place": event.place,
        "text": prose(event.text),
        "people": people,
        "clerk_asked": asked,
        "link": link.address[:4000] if link else "",
        "passcode": link.passcode[:80] if link else "",
        "why": link.why if link else "",
    }


def _trouble(calendar: Calendar, error: Exception) -> str:
    if isinstance(error, AuthorizationError):
        return f"{calendar.host} does not let {calendar.username} in any more. Connect the account anew."
    if isinstance(error, DAVError):
        return f"{calendar.host} does not give this calendar. It is tried again; if it is gone there, take it away here."
    return trouble_of(error, calendar.host)
