"""What of a sentence is not in the lines: a name, a number, a day, a negation that nobody said."""

from __future__ import annotations

import re
from datetime import date

from core.frequency import zipf
from core.reading.due import MONTHS, WEEKDAYS, days_named
from core.reading.numbers import numbers_in, stated_in
from core.reading.passage import Passage
from core.reading.words import terms

_NAMED = re.compile(r"[^\W\d_][\w’'-]*")
_DENIES = re.compile(r"\b(?:not|no|never|without|nobody|nothing|none|neither|nor|cannot)\b|n['’]t\b")
_DENIED = re.compile(
    _DENIES.pattern
    + r"|\b(?:nah|nope|instead|rather|drop\w*|off|out|stop\w*|cancel\w*|refus\w*|leave|left|skip\w*|only|less|scrap\w*|forget|against|ban\w*|"
    r"hardly|unless|till|until|except|rid|gone|lose|lost|fail\w*|bin|any more|anymore)\b"
)
"""How talk denies: with a no, or by dropping, leaving, taking out."""
_ORDINARY = 2.5
"""Zipf frequency (van Heuven et al. 2014) from which a word at the head of a sentence is a word like others, and no name."""
LEAST_SHARED = 0.25
"""Of the content words of a sentence, the share that is in the passage: a sentence below it is about something else."""


def unheld(text: str, passage: Passage) -> list[str]:
    """What a sentence says that its passage does not, in words for a log; empty where it is held. Nobody's meaning is judged here, only what
    can be looked up: every name, number and day, any negation, and that it is about the same things."""
    said = " ".join(piece.text for piece in passage.pieces)
    return [
        *(f"name {name}" for name in _strange_names(text, passage, said)),
        *(f"number {value:g}" for value in sorted(_strange_numbers(text, said))),
        *(f"day {day}" for day in _strange_days(text, said, passage.on)),
        *(["negation"] if _DENIES.search(text.lower()) and not _DENIED.search(said.lower()) else []),
        *(["subject"] if _shared(text, said, passage) < LEAST_SHARED else []),
    ]


def _parts(text: str) -> set[str]:
    return {part for word in _NAMED.findall(text.lower()) for part in (word, re.sub(r"['’]s?$", "", word), *word.split("-"))}


def _strange_names(text: str, passage: Passage, said: str) -> list[str]:
    known = _parts(said) | {part for name in (*passage.present, *(piece.speaker for piece in passage.pieces)) for part in _parts(name)}
    strange = []
    for match in _NAMED.finditer(text):
        word, lower = match[0], re.sub(r"['’]s?$", "", match[0].lower())
        head = not text[: match.start()].rstrip() or text[: match.start()].rstrip()[-1] in ".?!:“"
        if not word[0].isupper() or lower in known or set(lower.split("-")) <= known or lower in (*WEEKDAYS, *MONTHS, "i"):
            continue
        if head and zipf(lower, "en") >= _ORDINARY:
            continue
        if lower.endswith("s") and lower[:-1] in known or f"{lower}s" in known:
            continue
        strange.append(word)
    return strange


def _strange_numbers(text: str, said: str) -> set[float]:
    known = numbers_in(said)
    near = known | {value + 1200 for value in known} | {value - 1200 for value in known} | {value * 100 for value in known if value < 25}
    return {value for value in stated_in(_undated(text)) if value not in near}


def _undated(text: str) -> str:
    """Without years and days of a month beside the month: those are days, and looked up as such."""
    months = "|".join(MONTHS)
    return re.sub(rf"\b(?:\d{{1,2}}(?:st|nd|rd|th)? (?=(?:{months})\b)|(?<=of )\d{{4}}|20\d\d)\b", " ", text, flags=re.IGNORECASE)


def _strange_days(text: str, said: str, on: date | None) -> list[str]:
    """Weekdays and months that are named nowhere, nor follow from "tomorrow" or "next week" and the meeting's day."""
    plain, heard = text.lower(), said.lower()
    named = [word for word in (*WEEKDAYS, *MONTHS) if re.search(rf"\b{word}s?\b", plain) and word != "may"]
    meant = days_named(said, on) if on else []
    held = {WEEKDAYS[day.weekday()] for day in meant} | {MONTHS[day.month - 1] for day in [*meant, *([on] if on else [])]}
    return [word for word in named if word not in held and not re.search(rf"\b{word}", heard)]


def _shared(text: str, said: str, passage: Passage) -> float:
    own = set(terms(text))
    if not own:
        return 1.0
    there = set(terms(said)) | {term for name in passage.present for term in terms(name)}
    return len(own & there) / len(own)
