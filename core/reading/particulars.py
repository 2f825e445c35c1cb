"""Dates and figures named."""

from __future__ import annotations

import re
from collections.abc import Sequence

from core.reading.base import Finding, Said, clause
from core.reading.due import find_due
from core.record.model import Record

_WORDS = (
    r"(?:one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve|thirteen|fourteen|fifteen|sixteen|seventeen|eighteen|nineteen|twenty|thirty|forty|fifty|"
    r"sixty|seventy|eighty|ninety|hundred|thousand|million|half|third|quarter)"
)
_NUMBER = rf"(?:\d[\d,.]*|{_WORDS}(?:[ -](?:and )?{_WORDS})*)"
UNITS = (
    r"(?:%|percent|per cent|degrees?|pounds?|euros?|dollars?|thousand|hundred|million|metres?|meters?|millimetres?|mil|mm|cm|kilos?|tonnes?|litres?|liters?|hours?|"
    r"minutes?|panes?|trays?|years?|weeks?|days?|months?|kilowatts?|people|visitors?|square metres?)"
)
_FIGURE = re.compile(rf"[£€$]\s?\d[\d,.]*|\b{_NUMBER}\s?{UNITS}\b|\d%", re.IGNORECASE)


def find_figures(lines: Sequence[Said], record: Record) -> list[Finding]:
    """Lines that name a number with its unit."""
    return [Finding("figure", clause(said.text), (said,), 0.6) for said in lines if _FIGURE.search(said.text)]


def find_dates(lines: Sequence[Said], record: Record) -> list[Finding]:
    """Lines that name a day to come, with that day as `due`; none where the meeting's own date is not known."""
    if record.started_at is None:
        return []
    day = record.started_at.date()
    return [Finding("date", clause(said.text), (said,), 0.6, due=when) for said in lines if (when := find_due(said.text, day))]
