"""When somebody can be booked: their hours on the clocks of their zone, less what they have in their calendars, less a pause on either side."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import UTC, date, datetime, time, timedelta
from zoneinfo import ZoneInfo

MINUTE = timedelta(minutes=1)
_DAY = 24 * 60


@dataclass(frozen=True)
class Terms:
    """On what terms. hours: day of the week (0 is Monday) → spans, from minute to minute of the day on the clocks of `zone`. length, pause, step: minutes; step: how
    far apart times begin. notice: minutes from now until the first. a_day: how many at most on a day, None without a bound. ahead: days."""

    zone: str
    hours: Mapping[int, Sequence[tuple[int, int]]]
    length: int = 30
    pause: int = 0
    step: int = 30
    notice: int = 24 * 60
    a_day: int | None = None
    ahead: int = 60


@dataclass(frozen=True)
class Taken:
    """What is taken. busy: spans in calendars, aware; booked: when those begin that were booked here already."""

    busy: Sequence[tuple[datetime, datetime]] = ()
    booked: Sequence[datetime] = field(default_factory=tuple)


def free_times(terms: Terms, taken: Taken, now: datetime, first: date, days: int) -> list[datetime]:
    """Every moment (UTC) at which a booking can begin, of so many days from `first` on (days as the zone of the terms has them), in order.

    Hours are those that clocks show there: on the day on which they are put forward or back, a span is an hour shorter or longer, and no
    booking is.
    """
    zone = ZoneInfo(terms.zone)
    length, pause = terms.length * MINUTE, terms.pause * MINUTE
    soonest = now + terms.notice * MINUTE
    last = now.astimezone(zone).date() + timedelta(days=terms.ahead)
    that_day = Counter(moment.astimezone(zone).date() for moment in taken.booked)
    found: list[datetime] = []
    for day in (first + timedelta(days=number) for number in range(days)):
        if day > last or terms.a_day is not None and that_day[day] >= terms.a_day:
            continue
        for opens, closes in _open(terms, day, zone):
            begins = opens
            while begins + length <= closes:
                if begins >= soonest and not _meets(begins - pause, begins + length + pause, taken.busy):
                    found.append(begins)
                begins += terms.step * MINUTE
    return sorted(set(found))


def can_begin(terms: Terms, taken: Taken, now: datetime, begins: datetime) -> bool:
    """Can a booking begin at this very moment?"""
    day = begins.astimezone(ZoneInfo(terms.zone)).date()
    return begins.astimezone(UTC) in free_times(terms, taken, now, day, 1)


def check_hours(hours: Mapping[int, Sequence[Sequence[int]]]) -> list[str]:
    """What is wrong with hours, in words; nothing where they can be kept."""
    wrong = []
    for day, spans in hours.items():
        if day not in range(7):
            wrong.append(f"{day} is no day of the week: 0 is Monday, 6 is Sunday.")
        before = -1
        for span in sorted(map(tuple, spans)):
            if len(span) != 2 or not 0 <= span[0] < span[1] <= _DAY:
                wrong.append("Hours end after they begin, within one day.")
            elif span[0] < before:
                wrong.append("Hours of a day do not overlap.")
            else:
                before = span[1]
    return list(dict.fromkeys(wrong))


def _open(terms: Terms, day: date, zone: ZoneInfo) -> Iterable[tuple[datetime, datetime]]:
    for start, end in terms.hours.get(day.weekday(), ()):
        # Where clocks show a time twice, hours begin with the first and end with the second.
        opens, closes = _at(day, start, zone, 0), _at(day, end, zone, 1)
        if opens < closes:
            yield opens, closes


def _at(day: date, minute: int, zone: ZoneInfo, fold: int) -> datetime:
    if minute >= _DAY:
        day, minute = day + timedelta(days=1), 0
    return datetime.combine(day, time(minute // 60, minute % 60, fold=fold), zone).astimezone(UTC)


def _meets(start: datetime, end: datetime, busy: Iterable[tuple[datetime, datetime]]) -> bool:
    return any(begins < end and start < ends for begins, ends in busy)
