"""What detectors of passages share."""

from __future__ import annotations

import re
from collections.abc import Callable, Collection, Iterator, Sequence
from dataclasses import dataclass

from core.reading.base import Said, clause
from core.reading.owner import as_typed
from core.reading.wording import is_personal, quoted
from core.record.model import Record

_LEAST, _MOST = 5, 45
"""Words of a line that says something by itself, and that can still be taken in at a glance."""


STRUCTURED = 5.0
"""The weight of a passage that several turns make: as sure as a finding."""


@dataclass(frozen=True, slots=True)
class Passage:
    """Something said that belongs to a subject, with the lines it rests on (never none). `weight`: the more, the sooner it is kept."""

    text: str
    said: tuple[Said, ...]
    weight: float

    def __post_init__(self) -> None:
        if not self.said:
            raise ValueError("a passage needs at least one line")


Detector = Callable[[Sequence[Said], Record], list[Passage]]
"""The lines of a record, in order, and the record → passages, in order."""


def told(said: Said) -> str:
    """A line as anybody may tell it, where it names nobody by "I" or "you"; else in the speaker's own words, marked as such."""
    text = clause(said.text)
    return quoted(said) if is_personal(text) or len(text.split()) < 3 else text + ("?" if said.text.rstrip().endswith("?") else "")


def by_cues(cues: re.Pattern[str], against: re.Pattern[str] | None = None, *, quote: bool = True, asked: bool | None = None) -> Detector:
    """A detector of single lines: those with a cue, the more cues the weightier.

    against: words with which a line does not count. quote: always in the speaker's own words, for where it matters who said it.
    asked: True for questions alone, False for all but questions.
    """

    def find(lines: Sequence[Said], record: Record) -> list[Passage]:
        found = []
        for said in lines:
            plain, words = as_typed(said.text), len(said.text.split())
            hits = {match.group() for match in cues.finditer(plain)}
            if not hits or not _LEAST <= words <= _MOST or against and against.search(plain):
                continue
            if asked is not None and asked != said.text.rstrip().endswith("?"):
                continue
            found.append(Passage(quoted(said) if quote else told(said), (said,), len(hits) + min(words, 20) / 40))
        return found

    return find


def of_speakers(find: Detector, speakers: Collection[str]) -> Detector:
    """The same, of some speakers' lines alone."""
    return lambda lines, record: find([said for said in lines if said.speaker in speakers], record)


def by_turn(lines: Sequence[Said]) -> Iterator[list[Said]]:
    """The lines of each turn."""
    turn: list[Said] = []
    for said in lines:
        if turn and said.turn != turn[0].turn:
            yield turn
            turn = []
        turn.append(said)
    if turn:
        yield turn
