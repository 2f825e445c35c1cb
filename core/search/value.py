"""What a field is to hold by the lines that answer its question: a number, a day, one of several words, or what was said. Nothing where it is not plain."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from enum import StrEnum

from text_to_num import alpha2digit

from core.reading.due import days_named
from core.text import folded

_LANGUAGES = ("en", "es", "fr", "de", "pt", "ca")
"""Those whose words for numbers are known (text2num)."""
_AND = re.compile(r"\b(hundred|thousand)\s+and\s+(?=(?:one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve|\w+teen|\w+ty)\b)", re.IGNORECASE)
_SUM = re.compile(r"(?:[£€$]\s?)?(\d[\d,. ]*\d|\d)(?:\s?(k|thousand|million|m)\b)?", re.IGNORECASE)
_UNSURE = re.compile(r"\b(?:between|either|from|half|or|quarter|third)\b|\d\s?[-–]\s?\d", re.IGNORECASE)
_TIMES = {"k": 1_000, "thousand": 1_000, "m": 1_000_000, "million": 1_000_000}
LONGEST = 2000
"""Signs of a text."""


class FieldType(StrEnum):
    """What a field holds."""

    TEXT = "text"
    NUMBER = "number"
    DATE = "date"
    CHOICE = "choice"


@dataclass(frozen=True)
class Field:
    """A field of another system. choices: the words it may hold, where it holds one of several."""

    type: FieldType
    choices: tuple[str, ...] = ()


def value_in(field: Field, lines: Sequence[str], day: date, language: str = "en") -> str:
    """What lines say that a field is to hold; "" where they do not say one thing plainly. day: of the meeting.

    A number is one that stands alone in the best line; a day, the one day to come that is named; a choice, the one of them that is named.
    """
    if not lines:
        return ""
    if field.type == FieldType.TEXT:
        return " ".join(lines)[:LONGEST]
    if field.type == FieldType.DATE:
        days = set(days_named(" ".join(lines), day))
        return days.pop().isoformat() if len(days) == 1 else ""
    if field.type == FieldType.CHOICE:
        said = f" {folded(' '.join(lines))} "
        named = [one for one in field.choices if re.search(rf"\b{re.escape(folded(one))}\b", said)]
        return named[0] if len(named) == 1 else ""
    return next((found for line in lines if (found := _number(line, language))), "")


def fits(field: Field, value: str) -> bool:
    """Can a field hold it?"""
    if field.type == FieldType.NUMBER:
        return re.fullmatch(r"-?\d{1,15}(?:\.\d{1,6})?", value) is not None
    if field.type == FieldType.DATE:
        try:
            return bool(date.fromisoformat(value))
        except ValueError:
            return False
    return value in field.choices if field.type == FieldType.CHOICE else 0 < len(value) <= LONGEST


def _number(line: str, language: str) -> str:
    """The one number of a line, as digits; "" where there are several, or it is not plain which."""
    known = language.split("+")[0][:2]
    plain = alpha2digit(_AND.sub(r"\1 ", line), known if known in _LANGUAGES else "en")
    if _UNSURE.search(plain):
        return ""
    found = [match for match in _SUM.finditer(plain) if not _is_time(plain, match)]
    if len(found) != 1:
        return ""
    whole = re.sub(r"[ ,](?=\d{3}(?!\d))", "", found[0][1]).replace(" ", "")
    if not re.fullmatch(r"\d+(?:\.\d+)?", whole):
        return ""
    value = float(whole) * _TIMES.get((found[0][2] or "").lower(), 1)
    return str(int(value)) if value == int(value) else str(value)


def _is_time(line: str, match: re.Match[str]) -> bool:
    """A time of day or a day of the month is no amount."""
    after = line[match.end() : match.end() + 8].lower().lstrip()
    return bool(re.match(r"(?:st|nd|rd|th|o'clock|a\.?m\b|p\.?m\b|:)", after))
