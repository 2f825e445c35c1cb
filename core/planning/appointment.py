"""An appointment as iCalendar (RFC 5545): for a calendar, and as the letter that tells of it (iTIP, RFC 5546; iMIP, RFC 6047)."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime
from zoneinfo import ZoneInfo

from icalendar import Calendar, Event, vCalAddress, vText


@dataclass(frozen=True)
class Appointment:
    """What there is to tell. host, guest: (name, address). revision: how often it was changed (SEQUENCE, RFC 5545, 3.8.7.4). link: of the call."""

    uid: str
    title: str
    start: datetime
    end: datetime
    zone: str
    host: tuple[str, str]
    guest: tuple[str, str]
    revision: int = 0
    text: str = ""
    link: str = ""
    made_at: datetime | None = None
    called_off: bool = False


def to_ical(one: Appointment, now: datetime, method: str = "") -> bytes:
    """method: "" as it is kept in a calendar (RFC 4791, 4.1: an object there has none); REQUEST or CANCEL in a letter."""
    event = Event()
    event.add("uid", one.uid)
    event.add("dtstamp", now.astimezone(UTC))
    event.add("created", (one.made_at or now).astimezone(UTC))
    event.add("last-modified", now.astimezone(UTC))
    event.add("sequence", one.revision)
    event.add("summary", one.title)
    for name, moment in (("dtstart", one.start), ("dtend", one.end)):
        event.add(name, moment.astimezone(ZoneInfo(one.zone)))
    event.add("status", "CANCELLED" if one.called_off else "CONFIRMED")
    event.add("organizer", _person(one.host), encode=False)
    guest = _person(one.guest)
    guest.params.update({"ROLE": vText("REQ-PARTICIPANT"), "PARTSTAT": vText("ACCEPTED"), "CUTYPE": vText("INDIVIDUAL")})
    if not method:
        # We write to the guest ourselves: the calendar server is not to do it once more (RFC 6638, 7.1).
        guest.params["SCHEDULE-AGENT"] = vText("CLIENT")
    event.add("attendee", guest, encode=False)
    if one.text:
        event.add("description", one.text)
    if one.link:
        event.add("location", one.link)
        event.add("conference", one.link, parameters={"VALUE": "URI", "FEATURE": "AUDIO,VIDEO"})
    calendar = Calendar()
    calendar.add("version", "2.0")
    calendar.add("prodid", "-//Aftershower//Booking//EN")
    if method:
        calendar.add("method", method)
    calendar.add_component(event)
    calendar.add_missing_timezones()
    return calendar.to_ical()


def _person(who: tuple[str, str]) -> vCalAddress:
    name, address = who
    person = vCalAddress(f"mailto:{address}")
    person.params["CN"] = vText(name)
    return person
