"""Where calendars are had from. To add a way, write its function and name it in SOURCES."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from urllib.parse import urljoin, urlsplit

import caldav
from caldav.lib.error import AuthorizationError, DAVError

from core.problems import InputProblem
from server.calendars.models import Calendar, CalendarKind
from server.outward import Outward
from server.sealing import unseal

MOST_CALENDARS = 20
"""Of an account."""
_AT_ONCE = 50
"""Events that are asked for in one request."""


@dataclass(frozen=True)
class Fetched:
    """What has come. parts: by address within the calendar, each as it was written. gone: parts that are no longer there. whole: what is not
    among the parts is gone. nothing: all is as it was."""

    parts: Mapping[str, str] = field(default_factory=dict)
    gone: frozenset[str] = frozenset()
    whole: bool = False
    nothing: bool = False
    etag: str = ""
    modified: str = ""
    token: str = ""


def from_feed(calendar: Calendar) -> Fetched:
    """The whole of it, unless it says that nothing is new (RFC 9110, 13.1)."""
    asked = {"Accept": "text/calendar, */*;q=0.1"}
    if calendar.etag:
        asked["If-None-Match"] = calendar.etag
    if calendar.modified:
        asked["If-Modified-Since"] = calendar.modified
    answer = Outward().get(unseal(calendar.address), headers=asked)
    if answer.status_code == 304:
        return Fetched(nothing=True)
    if answer.status_code in (401, 403, 404, 410):
        raise InputProblem(f"{calendar.host} does not give this calendar any more (it answers {answer.status_code}). Share it anew there, and name its address here.")
    if answer.status_code != 200:
        raise InputProblem(f"{calendar.host} answers {answer.status_code}. It is tried again.")
    text = answer.content.decode("utf-8", errors="replace")
    return Fetched({"": text}, whole=True, etag=answer.headers.get("ETag", "")[:400], modified=answer.headers.get("Last-Modified", "")[:100])


def from_account(calendar: Calendar) -> Fetched:
    """What has changed since the last time, by the server's token (RFC 6578); all of it where the server has none, or knows ours no more."""
    found = client_of(unseal(calendar.address), calendar.username, unseal(calendar.secret)).calendar(url=unseal(calendar.address))
    whole = not calendar.token
    try:
        changes = found.objects_by_sync_token(calendar.token or None)
    except DAVError:  # a token that is known no more is answered by 403 (RFC 6578, 3.2), as is a wrong password
        try:
            whole, changes = True, found.objects_by_sync_token(None)
        except AuthorizationError:
            raise
        except DAVError:
            # It knows no tokens.
            return Fetched({_path(one): str(one.data) for one in found.events()}, whole=True)
    changed = {_path(one): one.url for one in changes}
    parts = {}
    for first in range(0, len(changed), _AT_ONCE):
        for one in found.multiget(list(changed.values())[first : first + _AT_ONCE]):
            if one.data:
                parts[_path(one)] = str(one.data)
    gone = frozenset(set(changed) - set(parts))
    return Fetched(parts, gone, whole, nothing=not (changed or whole), token=changes.sync_token or "")


def _path(one: caldav.CalendarObjectResource) -> str:
    return urlsplit(str(one.url)).path[:1000]


SOURCES: dict[str, Callable[[Calendar], Fetched]] = {CalendarKind.FEED: from_feed, CalendarKind.ACCOUNT: from_account}
"""Kind → how it is had. What is given as a file is had once."""


def client_of(address: str, username: str, password: str) -> caldav.DAVClient:
    """A client of an account that goes only where this server goes (`server.outward`)."""
    client = caldav.DAVClient(address, username=username, password=password)
    client.session = Outward()
    return client


def calendars_of(address: str, username: str, password: str) -> dict[str, str]:
    """The calendars of an account that hold events: address → name. Raises InputProblem."""
    host = urlsplit(address).hostname
    try:
        calendars = client_of(address, username, password).principal().calendars()
    except AuthorizationError as error:
        raise InputProblem(f"{host} does not let {username} in with that password. Check both; some ask for a password made for programs.") from error
    except DAVError as error:
        raise InputProblem(f"There is no calendar account at that address of {host}. Look up its CalDAV address there.") from error
    found = {}
    for one in calendars[:MOST_CALENDARS]:
        if "VEVENT" in (one.get_supported_components() or ["VEVENT"]):
            found[urljoin(address, str(one.url))] = str(one.name or "")[:120] or "Calendar"
    if not found:
        raise InputProblem(f"The account of {username} at {host} has no calendar with events.")
    return found
