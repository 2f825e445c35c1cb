"""What a strike takes out besides the record: each app that keeps words, or times or sums of them, has a `Purger` for its own, in its
module `purge`. What rests on the struck lines goes, what quotes them is blanked.

People's own words stay, without what they quote; where the one who strikes asks for it, those that rest on the passage go as well.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import Enum
from typing import Any

from django.db.models import Model, QuerySet

from core.record.strike import BLANK, Cut, Quotes
from server.meetings.models import Meeting

_BESIDE = 10.0  # seconds from the passage within which a single word of it is taken for a quotation


class Where(Enum):
    """Where a text stands: in the meeting; as a name of its own, such as a title or a term; in another meeting or of the workspace."""

    HERE = "here"
    NAME = "name"
    ELSEWHERE = "elsewhere"


@dataclass(frozen=True)
class Struck:
    """A strike, for the purgers. touched: keys of the lines of the record of which something goes; numbers: as they were counted until
    now; take_own: people's own words that rest on it go as well."""

    meeting: Meeting
    cut: Cut
    quotes: Quotes
    touched: frozenset[int]
    numbers: tuple[int, ...]
    take_own: bool = False

    def inside(self, start: float, end: float) -> bool:
        """Does a span lie in what is struck?"""
        return any(span.start <= start and end <= span.end for span in self.cut.spans)

    def overlaps(self, start: float, end: float) -> bool:
        """Does a span share anything with it?"""
        return any(start < span.end and end > span.start for span in self.cut.spans)

    def beside(self, start: float | None, end: float | None) -> bool:
        """Does it stand with what is struck?"""
        if start is None:
            return False
        return any(span.start - _BESIDE <= (start if end is None else end) and start <= span.end + _BESIDE for span in self.cut.spans)


@dataclass(frozen=True)
class Texts:
    """Rows of which a field may quote what is struck.

    start, end: the fields with the seconds at which they stand, where they have such. whole: a row that quotes it goes, for nothing of use
    is left. unique: no two may have the same, so that what is left is told apart by the row's key.
    """

    rows: QuerySet
    field: str
    where: Where = Where.HERE
    start: str = ""
    end: str = ""
    whole: bool = False
    unique: bool = False


@dataclass(frozen=True)
class Resting:
    """A row drawn from, or written on, the lines that are struck. by_hand: in a person's words; drawn ones go in any case."""

    row: Model
    kind: str
    text: str
    by_hand: bool
    initials: str = ""


class Purger:
    """What an app keeps of records. The default keeps nothing."""

    def texts(self, meeting: Meeting) -> Iterable[Texts]:
        """Fields that people write, in which what is struck may be quoted: of the meeting, and of its workspace."""
        return ()

    def resting(self, struck: Struck) -> Iterable[Resting]:
        """What rests on the struck lines or, where it was drawn, quotes them."""
        return ()

    def counts(self, struck: Struck) -> dict[str, int]:
        """How many of each other thing go or are changed, by a name that the interface words."""
        return {}

    def purge(self, struck: Struck) -> None:
        """Take out the rest, in the transaction that is open: what is named by none of the above."""

    def let_go(self, meeting: Meeting) -> None:
        """The record goes, by a rule, and its minutes stay: take out what else has its words, in the transaction that is open."""


PURGERS: list[Purger] = []


def register(purger: Purger) -> None:
    """Called by an app's module `purge`."""
    PURGERS.append(purger)


@dataclass(frozen=True)
class Quoting:
    """A row that quotes what is struck, and what is left of the field that does."""

    row: Model
    texts: Texts
    left: Any


@dataclass(frozen=True)
class Rests:
    """What a strike touches besides the record."""

    resting: tuple[Resting, ...]
    quoting: tuple[Quoting, ...]
    counts: Counter[str]

    @property
    def drawn(self) -> list[Resting]:
        """What goes and is drawn anew."""
        return [one for one in self.resting if not one.by_hand]

    @property
    def own(self) -> list[Resting]:
        """People's own words that rest on it."""
        return [one for one in self.resting if one.by_hand]


def rests_on(struck: Struck) -> Rests:
    """Find what a strike touches."""
    resting = tuple(one for purger in PURGERS for one in purger.resting(struck))
    quoting = tuple(found for purger in PURGERS for texts in purger.texts(struck.meeting) for found in _quoting(struck, texts))
    counts: Counter[str] = Counter()
    for purger in PURGERS:
        counts.update(purger.counts(struck))
    counts["quotes"] = sum(one.texts.where is Where.HERE for one in quoting)
    counts["elsewhere"] = len(quoting) - counts["quotes"]
    return Rests(resting, quoting, counts)


def purge(struck: Struck, rests: Rests) -> None:
    """Take it out of everything that is kept besides the record, in the transaction that is open."""
    for one in (*rests.drawn, *(rests.own if struck.take_own else ())):
        one.row.delete()
    for found in rests.quoting:
        rows = type(found.row)._default_manager.filter(pk=found.row.pk)
        if found.texts.whole:
            rows.delete()
        else:
            rows.update(**{found.texts.field: found.left})
    for purger in PURGERS:
        purger.purge(struck)


def let_go_of_record(meeting: Meeting) -> None:
    """What has the words of a record besides it, but for its minutes, in the transaction that is open."""
    for purger in PURGERS:
        purger.let_go(meeting)


def _quoting(struck: Struck, texts: Texts) -> Iterable[Quoting]:
    names = [name for name in (texts.start, texts.end) if name]
    for row in texts.rows.only(texts.field, *names):
        near = texts.where is Where.NAME or bool(texts.start) and struck.beside(*[getattr(row, name) for name in (names * 2)[:2]])
        value = getattr(row, texts.field)
        left = blanked_in(value, struck.quotes, near=near, far=texts.where is not Where.HERE)
        if left != value:
            yield Quoting(row, texts, f"{left} {row.pk}" if texts.unique else left)


def blanked_in(value: Any, quotes: Quotes, *, near: bool = False, far: bool = False) -> Any:
    """A text, or texts in lists and dicts, without what they quote."""
    if isinstance(value, str):
        return quotes.blanked(value, near=near, far=far)
    if isinstance(value, Sequence):
        # A name of which nothing is left goes.
        left = [blanked_in(one, quotes, near=near, far=far) for one in value]
        return [one for one in left if not (near and one == BLANK)]
    if isinstance(value, dict):
        return {key: blanked_in(one, quotes, near=near, far=far) for key, one in value.items()}
    return value
