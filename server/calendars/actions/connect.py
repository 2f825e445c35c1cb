"""Connect calendars, and take them away."""

from __future__ import annotations

from urllib.parse import urlsplit

from django.utils import timezone

from core.problems import InputProblem
from core.text import one_line
from server.accounts.models import Membership
from server.acting import acting
from server.calendars.keep import store
from server.calendars.models import Calendar, CalendarKind
from server.calendars.sources import Fetched, calendars_of, from_feed
from server.calendars.tasks import queue_look
from server.outward import settled, trouble_of
from server.problems import Refused
from server.sealing import seal, unseal
from server.sharing.policy import Can, require

MOST = 30
"""Calendars of one member."""


def connect_feed(membership: Membership, address: str, name: str) -> Calendar:
    """By an address that gives the whole calendar. It is asked for at once, so that what is wrong is said here. Raises Refused."""
    _check(membership)
    try:
        address = settled(address, secret=False)
        calendar = _new(membership, CalendarKind.FEED, address, name)
        fetched = from_feed(calendar)
    except (OSError, ValueError) as error:
        raise Refused(422, trouble_of(error, urlsplit(address).hostname or "That address")) from error
    return _keep(membership, calendar, fetched)


def connect_account(membership: Membership, address: str, username: str, password: str) -> list[Calendar]:
    """The calendars of an account. Those that are connected already get the new password. Raises Refused."""
    _check(membership)
    username = one_line(username)
    try:
        address = settled(address, secret=True)
        found = calendars_of(address, username, password)
    except (OSError, ValueError) as error:
        raise Refused(422, trouble_of(error, urlsplit(address).hostname or "That address")) from error
    with acting(membership, Can.ADD, "connect calendar account", calendars=len(found)):
        there = {unseal(one.address): one for one in membership.calendars.filter(kind=CalendarKind.ACCOUNT, username=username)}
        kept = []
        for where, name in found.items():
            calendar = there.get(where) or _new(membership, CalendarKind.ACCOUNT, where, name)
            calendar.username, calendar.secret, calendar.trouble, calendar.fails = username, seal(password), "", 0
            calendar.save()
            queue_look(calendar)
            kept.append(calendar)
    return kept


def give_calendar(membership: Membership, name: str, text: str) -> Calendar:
    """A calendar as a file (.ics). It is what it is: nothing new comes of it. Raises Refused."""
    _check(membership)
    called = one_line(name).removesuffix(".ics")[:120]
    return _keep(membership, Calendar(membership=membership, kind=CalendarKind.FILE, name=called), Fetched({"": text}, whole=True))


def look_again(membership: Membership, calendar: Calendar) -> None:
    """Now, and not in some minutes."""
    with acting(membership, Can.ADD, "look at calendar"):
        queue_look(calendar)


def drop_calendar(membership: Membership, calendar: Calendar) -> None:
    """Take it away, with all that came from it; meetings that were held stay. It can be connected again."""
    with acting(membership, Can.ADD, "drop calendar"):
        calendar.delete()


def _check(membership: Membership) -> None:
    require(membership, Can.ADD)
    if membership.calendars.count() >= MOST:
        raise Refused(409, f"You have {MOST} calendars here, which is as many as there can be. Take one away first.")


def _new(membership: Membership, kind: str, address: str, name: str) -> Calendar:
    host = urlsplit(address).hostname or ""
    # Its time has come at once, also where the job that is queued for it is lost.
    return Calendar(membership=membership, kind=kind, name=one_line(name)[:120], address=seal(address), host=host[:255], next_at=timezone.now())


def _keep(membership: Membership, calendar: Calendar, fetched: Fetched) -> Calendar:
    with acting(membership, Can.ADD, "connect calendar", kind=calendar.kind):
        try:
            calendar.save()
            store(calendar, fetched)
        except InputProblem as problem:
            raise Refused(422, str(problem)) from problem
    calendar.refresh_from_db()
    if not calendar.name:
        calendar.name = calendar.host or "Calendar"
        calendar.save(update_fields=["name"])
    return calendar
