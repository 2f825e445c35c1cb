"""People's own notes beside the record: the lines they refer to, what the record adds, and where the two disagree."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from core.reading.base import Said, clause, table
from core.reading.due import MONTHS, WEEKDAYS
from core.reading.words import terms

_BEFORE, _AFTER = 75.0, 20.0
"""Seconds before and after the moment at which a note was begun in which what it refers to was said: people write behind the talk."""
_MOST = 2
_ENOUGH = 0.34
"""Share of a note's words, by rarity, that a line has to have to be what the note is about."""

# Kinds of particulars: of one kind there is one right answer, so that a different one in the record is a disagreement.
PARTICULARS: dict[str, re.Pattern[str]] = {
    "day": table(rf"(?:{'|'.join(WEEKDAYS)})\b"),
    "date": table(rf"(?:\d{{1,2}}(?:st|nd|rd|th)?(?: of)? (?:{'|'.join(MONTHS)})|(?:{'|'.join(MONTHS)}) \d{{1,2}})\b"),
    "sum": re.compile(r"[£$€]\s?\d[\d.,]*\d|[£$€]\s?\d|\b\d[\d.,]*(?: ?k)? ?(?:pounds|euros|dollars)\b"),
    "number": re.compile(r"\b\d+(?:[.,]\d+)*\b"),
}
_SPOKEN = {
    word: str(number)
    for number, word in enumerate(
        "zero one two three four five six seven eight nine ten eleven twelve thirteen fourteen fifteen sixteen seventeen eighteen nineteen twenty".split()
    )
}
_SPOKEN |= {"thirty": "30", "forty": "40", "fifty": "50", "sixty": "60", "seventy": "70", "eighty": "80", "ninety": "90"}
_TENS = re.compile(r"\b(twenty|thirty|forty|fifty|sixty|seventy|eighty|ninety)[- ](one|two|three|four|five|six|seven|eight|nine)\b")
_NUMBERS = re.compile(rf"\b({'|'.join(sorted(_SPOKEN, key=len, reverse=True))})\b")
_LARGE = re.compile(r"\b(\d+) (hundred|thousand)(?: and (\d+)\b)?")


@dataclass(frozen=True, slots=True)
class Beside:
    """What stands beside a note: the lines it refers to, what they name that the note does not, and where they say otherwise."""

    lines: tuple[Said, ...]
    adds: tuple[str, ...] = ()
    differs: tuple[tuple[str, str], ...] = ()


def beside(text: str, at: float | None, lines: Sequence[Said]) -> Beside:
    """What of a record a note refers to. at: the second at which it was begun, None for a note that was not written at one.

    Lines are those said around that moment that share the note's rarer words; none where none do.
    """
    wanted = set(terms(text))
    near = [said for said in lines if at is None or at - _BEFORE <= said.line.end and said.line.start <= at + _AFTER]
    if not wanted or not near:
        return Beside(())
    spread = Counter(term for said in lines for term in set(terms(said.text)))
    # A word that nobody says is a name or figure misheard, or the writer's own: it says less of where the note belongs.
    weight = {term: 1 / spread[term] ** 0.5 if spread[term] else 0.3 for term in wanted}
    total = sum(weight.values())
    share = {said.index: sum(weight[term] for term in wanted & set(terms(said.text))) / total for said in near}
    # People write behind the talk: of lines that say as much, the last one before they began.
    ranked = sorted((said for said in near if share[said.index] >= _ENOUGH), key=lambda said: (-share[said.index], -said.index))
    chosen: list[Said] = []
    for said in ranked:
        told = {term for one in chosen for term in terms(one.text)}
        if len(chosen) < _MOST and (not chosen or wanted & set(terms(said.text)) - told):
            chosen.append(said)
    if not chosen:
        return Beside(())
    chosen.sort(key=lambda said: said.index)
    differs, adds = [], []
    own = particulars(text)
    for kind in PARTICULARS:
        mine, theirs = own[kind], [one for said in chosen for one in particulars(said.text)[kind]]
        other = [one for one in dict.fromkeys(theirs) if one not in mine]
        if mine and theirs and not set(mine) & set(theirs):
            differs.append((", ".join(mine), ", ".join(other)))
        elif other and not mine:
            adds += other
    if own["date"] or own["sum"]:  # the numbers in them have been compared as such
        differs = [pair for pair in differs if pair[0] not in own["number"]]
    said_of_note = {one for kind in own.values() for one in kind}
    return Beside(tuple(chosen), tuple(one for one in dict.fromkeys(adds) if one not in said_of_note), tuple(dict.fromkeys(differs)))


def particulars(text: str) -> dict[str, list[str]]:
    """Days, dates, sums and numbers that a text names, numbers in figures, each kind in order; a sum's or a date's number is none of its own."""
    plain = _TENS.sub(lambda found: str(int(_SPOKEN[found[1]]) + int(_SPOKEN[found[2]])), text.lower().replace("’", "'"))
    plain = _NUMBERS.sub(lambda found: _SPOKEN[found[1]], plain)
    plain = _LARGE.sub(lambda found: str(int(found[1]) * (100 if found[2] == "hundred" else 1000) + int(found[3] or 0)), plain)
    plain = re.sub(r"(?<=\d),(?=\d{3}\b)", "", plain)
    found: dict[str, list[str]] = {}
    for kind, pattern in PARTICULARS.items():
        found[kind] = list(dict.fromkeys(_bare(match.group(), kind) for match in pattern.finditer(plain)))
        if kind in ("date", "sum"):
            plain = pattern.sub(" ", plain)
    return found


def _bare(text: str, kind: str) -> str:
    """The same thing in the same form: "£1,200" and "1200 pounds", "3 March" and "March 3rd"."""
    if kind == "day":
        return text.capitalize()
    found = re.search(r"\d[\d.]*", text)
    number = found[0].rstrip(".") if found else ""
    if kind == "sum":
        sign = "€" if "€" in text or "euro" in text else "$" if "$" in text or "dollar" in text else "£"
        return f"{sign}{number}{'000' if text.rstrip().endswith('k') else ''}"
    if kind == "date":
        month = next(month for month in MONTHS if month in text)
        return f"{number} {month.capitalize()}"
    return number


def as_line(text: str) -> str:
    """A note as a line of the minutes: its words as they are, its first letter raised."""
    return clause(text) if not text[:1].isupper() else text.strip()
