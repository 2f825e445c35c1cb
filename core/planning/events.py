"""Events of a calendar: what RFC 5545 says in text, as the instances that fall into a span of time.

Recurrence, with its exceptions and moved instances, is worked out by recurring-ical-events, each event by itself, so that one that cannot be
read takes no other with it.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, tzinfo
from enum import StrEnum
from itertools import islice
from typing import Any
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

import recurring_ical_events
from icalendar import Calendar
from icalendar.timezone import tzid_from_dt

from core.planning.links import Source
from core.problems import InputProblem
from core.text import one_line, prose

MOST_BYTES = 10 * 1024 * 1024
MOST_EVENTS = 20_000
MOST_INSTANCES = 400
"""Of one event in the span that is asked for: an event every hour of a fortnight is one, an event a second is a mistake."""
MOST_ATTENDEES = 500
_TOO_OFTEN = ("SECONDLY", "MINUTELY")
_LONGEST_TEXT = 20_000
Written = Any
"""A component of icalendar's: its values are of some thirty kinds, told apart by what they have."""


class Answer(StrEnum):
    """What somebody said to an invitation (PARTSTAT, RFC 5545, 3.2.12)."""

    ACCEPTED = "accepted"
    DECLINED = "declined"
    TENTATIVE = "tentative"
    NONE = "none"


class Status(StrEnum):
    """Of an event (STATUS, RFC 5545, 3.8.1.11)."""

    CONFIRMED = "confirmed"
    TENTATIVE = "tentative"
    CANCELLED = "cancelled"


@dataclass(frozen=True, slots=True)
class Invited:
    """Somebody who is asked to an event. address: in small letters, "" where there is none that mail goes to."""

    name: str
    address: str
    answer: Answer = Answer.NONE


@dataclass(frozen=True, slots=True)
class Event:
    """One instance of an event.

    uid: shared by all instances of it. instance: which of them, by the start that the series gave it (UTC); "" where there is but one.
    zone: name of the time zone that it is planned in, "" where the calendar leaves that to whoever reads it. sources: where a link may stand.
    free: it takes no time (TRANSP, RFC 5545, 3.8.2.7).
    """

    uid: str
    instance: str
    title: str
    start: datetime
    end: datetime
    zone: str
    all_day: bool
    status: Status
    private: bool
    organiser: Invited | None
    invited: tuple[Invited, ...]
    place: str
    text: str
    sources: tuple[Source, ...]
    recurs: bool
    free: bool = False


@dataclass(frozen=True, slots=True)
class Events:
    """What a calendar holds in a span, in order; and what could not be read of it, in words, each with how the event is called."""

    events: tuple[Event, ...]
    troubles: tuple[str, ...]
    name: str = ""


def read_events(data: bytes, since: datetime, until: datetime, zone: str = "UTC") -> Events:
    """The instances that are not over at `since` and begin before `until` (both aware). zone: of what is planned without one.

    Raises InputProblem for what is no calendar, or too large. RFC 5545; CONFERENCE is of RFC 7986, 5.11.
    """
    if len(data) > MOST_BYTES:
        raise InputProblem(f"This calendar has {len(data) // 2**20} MB; up to {MOST_BYTES // 2**20} MB are read. Share a smaller one, or one of its parts.")
    found: dict[tuple[str, str], tuple[tuple[int, str], Event]] = {}
    troubles: list[str] = []
    title = ""
    for calendar in read_calendars(data):
        title = title or one_line(str(calendar.get("X-WR-CALNAME", "") or calendar.get("NAME", "")))[:120]
        home = _zone(str(calendar.get("X-WR-TIMEZONE", ""))) or _zone(zone) or ZoneInfo("UTC")
        zones = [part for part in calendar.subcomponents if part.name == "VTIMEZONE"]
        for written in _by_uid(calendar).values():
            try:
                for row in _instances(written, zones, since, until, home):
                    event, rank = row
                    key = (event.uid, event.instance)
                    if key not in found or found[key][0] <= rank:
                        found[key] = (rank, event)
            except Exception as error:  # whatever a calendar holds: the libraries raise of many kinds
                troubles.append(f"“{_called(written)}” cannot be read: {one_line(str(error))[:200] or type(error).__name__}")
    events = sorted((event for _, event in found.values()), key=lambda event: (event.start, event.uid))
    return Events(tuple(events), tuple(troubles), title)


def read_calendars(data: bytes) -> list[Written]:
    """The iCalendar objects of a text. Raises InputProblem for what is none, or not whole."""
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("cp1252", errors="replace")
    if "BEGIN:VCALENDAR" not in text[:4000].upper():
        raise InputProblem("This is no calendar: it does not begin with BEGIN:VCALENDAR. Give the address of the calendar itself, not of its page.")
    if not text.rstrip().upper().endswith("END:VCALENDAR"):
        raise InputProblem("This calendar is cut off: its end is missing. Nothing of it was taken; fetch it again.")
    try:
        return list(Calendar.from_ical(text, multiple=True))
    except Exception as error:
        raise InputProblem(f"This calendar cannot be read: {one_line(str(error))[:200]}. Save it again where it comes from.") from error


def _by_uid(calendar: Written) -> dict[str, list[Written]]:
    by_uid: dict[str, list[Written]] = defaultdict(list)
    for number, event in enumerate(islice((part for part in calendar.subcomponents if part.name == "VEVENT"), MOST_EVENTS + 1)):
        if number == MOST_EVENTS:
            raise InputProblem(f"This calendar has more than {MOST_EVENTS:,} events. Share one of its parts.")
        by_uid[str(event.get("UID") or f"nameless-{number}")].append(event)
    return by_uid


def _instances(
    written: Sequence[Written], zones: Sequence[Written], since: datetime, until: datetime, home: tzinfo
) -> Iterator[tuple[Event, tuple[int, str]]]:
    """The instances of one event, each with its rank among those that say they are the same: the later revision counts."""
    rules = [rule for event in written for rule in _as_list(event.get("RRULE"))]
    for rule in rules:
        if str(next(iter(_as_list(rule.get("FREQ"))), "")).upper() in _TOO_OFTEN:
            raise ValueError("it recurs every second or minute, which no meeting does")
    calendar = Calendar()
    for part in [*zones, *(_settled(event, home) for event in written)]:
        calendar.add_component(part)
    recurs = bool(rules) or any(event.get("RDATE") is not None for event in written)
    pages = recurring_ical_events.of(calendar).after(since.astimezone(home))
    for count, instance in enumerate(pages):
        start, end, all_day = _span(instance, home)
        if start >= until:
            return
        if count >= MOST_INSTANCES:
            raise ValueError(f"it falls more than {MOST_INSTANCES} times into these weeks")
        if end <= since and start < since:
            continue
        own = instance.get("RECURRENCE-ID")
        rank = (int(instance.get("SEQUENCE") or 0), str(getattr(instance.get("LAST-MODIFIED") or instance.get("DTSTAMP"), "dt", "")))
        yield _event(instance, start, end, all_day, own and _moment(own.dt, home) if recurs else None), rank


def _settled(event: Written, home: tzinfo) -> Written:
    """The event with its times in a zone: what has none, or one that nobody knows, is meant where the calendar is read."""
    copied = event.copy(recursive=True)
    for name in ("DTSTART", "DTEND", "RECURRENCE-ID", "EXDATE", "RDATE"):
        for value in _as_list(copied.get(name)):
            for one in getattr(value, "dts", [value]):
                if isinstance(getattr(one, "dt", None), datetime) and one.dt.tzinfo is None:
                    one.dt = one.dt.replace(tzinfo=home)
                    one.params.pop("TZID", None)
    return copied


def _span(event: Written, home: tzinfo) -> tuple[datetime, datetime, bool]:
    start = event["DTSTART"].dt
    first, last = _moment(start, home), _moment(event["DTEND"].dt, home)  # which every instance has, whatever the event has
    return first, max(first, last), not isinstance(start, datetime)


def _moment(value: date, home: tzinfo) -> datetime:
    whole = value if isinstance(value, datetime) else datetime.combine(value, time())
    return whole if whole.tzinfo else whole.replace(tzinfo=home)


def _event(written: Written, start: datetime, end: datetime, all_day: bool, instance: datetime | None) -> Event:
    organiser = written.get("ORGANIZER")
    invited = [_invited(one) for one in _as_list(written.get("ATTENDEE"))[:MOST_ATTENDEES]]
    plain, html = prose(str(written.get("DESCRIPTION") or "")), str(next(iter(_as_list(written.get("X-ALT-DESC"))), ""))
    place = one_line(str(written.get("LOCATION") or ""))
    return Event(
        uid=str(written.get("UID") or "")[:400],
        instance=instance.astimezone(UTC).strftime("%Y%m%dT%H%M%SZ") if instance else "",
        title=one_line(str(written.get("SUMMARY") or ""))[:200],
        start=start.astimezone(UTC),
        end=end.astimezone(UTC),
        zone=_zone_name(start),
        all_day=all_day,
        status=_named(Status, written.get("STATUS"), Status.CONFIRMED),
        private=str(written.get("CLASS") or "PUBLIC").upper() in ("PRIVATE", "CONFIDENTIAL"),
        organiser=_invited(organiser) if organiser is not None else None,
        invited=tuple({one.address or one.name: one for one in invited if one.address or one.name}.values()),
        place=place[:400],
        text=plain[:_LONGEST_TEXT],
        sources=tuple(_sources(written, place, plain[:_LONGEST_TEXT], html[:_LONGEST_TEXT])),
        recurs=instance is not None,
        free=str(written.get("TRANSP") or "").upper() == "TRANSPARENT",
    )


def _sources(written: Written, place: str, plain: str, html: str) -> Iterator[Source]:
    """Where a link to a call may stand, what is meant for it first."""
    for one in _as_list(written.get("CONFERENCE")):
        features = {feature.upper() for listed in _as_list(one.params.get("FEATURE")) for feature in str(listed).split(",")}  # some put the list into quotation marks
        if not features or features & {"AUDIO", "VIDEO"}:
            yield Source("conference", str(one))
    for name, value in written.items():
        if name.upper().startswith("X-") and name.upper() != "X-ALT-DESC":
            for one in _as_list(value):
                if "://" in str(one):
                    yield Source("property", str(one))
    yield Source("address", str(written.get("URL") or ""))
    yield Source("place", place)
    yield Source("html", html)
    yield Source("text", plain)


def _invited(value: Any) -> Invited:
    scheme, _, rest = str(value).partition(":")
    address = one_line(rest).lower() if scheme.lower() == "mailto" else one_line(str(value)).lower() if "@" in str(value) and "://" not in str(value) else ""
    params = getattr(value, "params", {})
    address = address or one_line(str(params.get("EMAIL", ""))).lower()
    name = one_line(str(params.get("CN", ""))).strip("\"'")
    return Invited((name or address.split("@")[0])[:120], address[:254], _named(Answer, params.get("PARTSTAT"), Answer.NONE))


def _named(kind: Any, value: Any, otherwise: Any) -> Any:
    try:
        return kind(str(value).lower())
    except ValueError:
        return otherwise


def _zone(name: str) -> ZoneInfo | None:
    try:
        return ZoneInfo(name) if name else None
    except (ZoneInfoNotFoundError, ValueError, OSError):
        return None


def _zone_name(moment: datetime) -> str:
    """The IANA name of its zone; "" for one that a calendar describes itself."""
    name = tzid_from_dt(moment) or ""
    return name if _zone(name) else ""


def _called(written: Iterable[Written]) -> str:
    """How an event is called that cannot be read."""
    for event in written:
        if title := one_line(str(event.get("SUMMARY") or ""))[:80]:
            return title
    return "An event"


def _as_list(value: Any) -> list[Any]:
    if value is None:
        return []
    return value if isinstance(value, list) else [value]


