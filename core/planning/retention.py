"""How long what is kept: of rules at several levels, which counts for a meeting, and on which day it bites. No storage, no clock."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, timedelta
from enum import IntEnum, StrEnum


class What(StrEnum):
    """What is let go of, least first: sound and picture; the record as well, so that the minutes are left; everything."""

    SOUND = "sound"
    RECORD = "record"
    ALL = "all"


class Level(IntEnum):
    """For what a rule is, the nearest last: all of a workspace; one kind of meeting; a shelf; a series."""

    WORKSPACE = 0
    KIND = 1
    SHELF = 2
    SERIES = 3


@dataclass(frozen=True, slots=True)
class Terms:
    """Days after a meeting; None: kept."""

    sound: int | None = None
    record: int | None = None
    all: int | None = None

    def contradiction(self) -> str:
        """What of it cannot be kept to, in words; "" where there is nothing."""
        for sooner, later, words in (
            (self.sound, self.record, "The record goes before its sound"),
            (self.record, self.all, "All goes before the record"),
            (self.sound, self.all, "All goes before the sound"),
        ):
            if sooner is not None and later is not None and later < sooner:
                return f"{words}: {later} days are less than {sooner}. What is less goes first, or on the same day."
        return ""


@dataclass(frozen=True, slots=True)
class Rule:
    """One rule; key: by which it is told which one bites."""

    key: int
    level: Level
    terms: Terms


@dataclass(frozen=True, slots=True)
class Bite:
    """On a day, this goes, by this rule."""

    what: What
    on: date
    rule: int


def bites(rules: Iterable[Rule], held: date) -> tuple[Bite, ...]:
    """What goes of a meeting that was held on a day, and when, in order of time. rules: those that are for this meeting.

    For each thing the nearest rule that says something of it counts; of several shelves the one that keeps it longest. What goes later than
    something that takes it along is not told of.
    """
    known = list(rules)
    found: list[Bite] = []
    for what in (What.ALL, What.RECORD, What.SOUND):
        said = [(rule.level, days, rule.key) for rule in known if (days := getattr(rule.terms, what)) is not None]
        if not said:
            continue
        _, days, key = max(said)
        on = held + timedelta(days=days)
        if all(on < other.on for other in found):
            found.append(Bite(what, on, key))
    return tuple(reversed(found))
