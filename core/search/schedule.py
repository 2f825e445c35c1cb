"""Questions that a calendar answers: what is on a day, and what one missed on it."""

from __future__ import annotations

import re
from contextlib import suppress
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Literal

from core.reading.due import MONTHS, ORDINALS, WEEKDAYS

_WEEKDAY, _MONTH = "|".join(WEEKDAYS), "|".join(MONTHS)
_ORDINAL = "|".join(sorted(ORDINALS, key=len, reverse=True))
_DAY = (
    rf"(?P<near>today|tonight|this morning|this afternoon|yesterday|tomorrow|(?:the )?day (?:after tomorrow|before yesterday))|(?P<which>this|last|next) week|"
    rf"(?:on |this |last |next )?(?P<weekday>{_WEEKDAY})|(?:on )?(?P<iso>\d{{4}}-\d\d-\d\d)|"
    rf"(?:on )?(?:the )?(?:(?P<number>\d{{1,2}})(?:st|nd|rd|th)?|(?P<ordinal>{_ORDINAL}))(?: of)? (?P<month>{_MONTH})"
)
_MINE = r"(?:(?:my|our|the) (?:schedule|calendar|diary|agenda|plate))"
_AHEAD = re.compile(
    rf"^(?:what(?:'s| is| will be| have i(?: got)?| do i have| meetings (?:are there|do i have|have i(?: got)?))|which meetings (?:are there|do i have|have i(?: got)?)|"
    rf"have i(?: got)? (?:anything|any meetings)|is there anything)"
    rf"(?: happening| coming up| planned| scheduled| ahead| on| in| for me| {_MINE})*(?: for)? (?:{_DAY})\W*$"
)
_MISSED = re.compile(rf"^(?:what (?:did|have) i miss(?:ed)?|did i miss (?:anything|something|much)|have i missed (?:anything|something|much)|what i missed)(?: (?:{_DAY}))?\W*$")
_NEAR = {"today": 0, "tonight": 0, "this morning": 0, "this afternoon": 0, "yesterday": -1, "tomorrow": 1, "day after tomorrow": 2, "day before yesterday": -2}


@dataclass(frozen=True, slots=True)
class Days:
    """What is asked of some days on end: what is on them, or what one missed. last: included."""

    asks: Literal["on", "missed"]
    first: date
    last: date


def asks_days(question: str, today: date) -> Days | None:
    """The days a question asks for, seen from `today`; None where it asks for something else. Weekdays are the last ones where one missed
    something, else those to come; "what did I miss?" is of the last seven days."""
    plain = re.sub(r"\s+", " ", question.strip().lower().replace("’", "'"))
    if found := _MISSED.match(plain):
        span = _days(found, today, back=True) if any(found.groupdict().values()) else (today - timedelta(days=7), today)
        return Days("missed", *span) if span else None
    if found := _AHEAD.match(plain):
        span = _days(found, today, back=False)
        return Days("on", *span) if span else None
    return None


def _days(found: re.Match[str], today: date, *, back: bool) -> tuple[date, date] | None:
    said = found.groupdict()
    if said["near"]:
        day = today + timedelta(days=_NEAR[said["near"].removeprefix("the ")])
        return day, day
    if said["which"]:
        monday = today - timedelta(days=today.weekday()) + timedelta(days={"last": -7, "this": 0, "next": 7}[said["which"]])
        return monday, monday + timedelta(days=6)
    if said["weekday"]:
        ahead = (WEEKDAYS.index(said["weekday"]) - today.weekday()) % 7
        # Asked on a Tuesday, "on Tuesday" is today where one looks ahead, and a week ago where one looks back.
        day = today + timedelta(days=ahead - 7 if back else ahead)
        return day, day
    dated = _of_its_year(said["iso"]) if said["iso"] else _nearest(said, today, back=back)
    return (dated, dated) if dated else None


def _of_its_year(said: str) -> date | None:
    with suppress(ValueError):  # no such day
        return date.fromisoformat(said)
    return None


_LEAP = 8
"""Years within which there is every day that there is."""


def _nearest(said: dict[str, str], today: date, *, back: bool) -> date | None:
    """The last day of that name, or the next; None where no year has it."""
    number, month = int(said["number"]) if said["number"] else ORDINALS[said["ordinal"]], MONTHS.index(said["month"]) + 1
    for years in range(_LEAP + 1):
        with suppress(ValueError):  # a year that has no such day
            day = date(today.year + (-years if back else years), month, number)
            if (day <= today) if back else (day >= today):
                return day
    return None
