"""What the API takes in, bounded where it comes in: texts, moments, seconds."""

from __future__ import annotations

from datetime import UTC, date, datetime
from typing import Annotated

from pydantic import AfterValidator, AwareDatetime, Field

from core.text import one_line, prose

EARLIEST, LATEST = datetime(1970, 1, 1, tzinfo=UTC), datetime(2200, 1, 1, tzinfo=UTC)
"""Between these a meeting may begin. Beyond, clocks and calendars of one kind or another give up."""
LONGEST = 400_000.0
"""Seconds of the longest record: four days, far beyond the longest recording."""


def _within(moment: datetime) -> datetime:
    if not EARLIEST <= moment < LATEST:
        raise ValueError(f"a date between {EARLIEST.year} and {LATEST.year} is wanted; this is {moment.date().isoformat()}")
    return moment


def _day_within(day: date) -> date:
    if not EARLIEST.date() <= day < LATEST.date():
        raise ValueError(f"a date between {EARLIEST.year} and {LATEST.year} is wanted; this is {day.isoformat()}")
    return day


Moment = Annotated[AwareDatetime, AfterValidator(_within)]
Day = Annotated[date, AfterValidator(_day_within)]
Name = Annotated[str, Field(max_length=200), AfterValidator(one_line)]
"""A name or a title."""
Prose = Annotated[str, Field(max_length=4000), AfterValidator(prose)]
"""A text of several lines."""
Short = Annotated[str, Field(max_length=400)]
"""What is asked for: words, a page."""
Seconds = Annotated[float, Field(ge=0, le=LONGEST, allow_inf_nan=False)]
"""A place in a record."""
Number = Annotated[int, Field(ge=0, le=2_000_000_000)]
"""A count or a position, as PostgreSQL's integer holds it."""
