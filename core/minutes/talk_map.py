"""A meeting on one page: its chapters in their order and length, who carried each, what fell where, and where the talk came back."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from core.planning.airtime import airtime
from core.reading import Reading
from core.reading.base import Finding
from core.reading.chapters import Chapter
from core.reading.words import terms
from core.record.model import Record
from core.record.timeline import Span

MOST = 14
"""Stretches that can be told apart on a page; of more, the shortest are joined to the one before."""
_CARRY, _CARRIERS = 0.2, 2
"""The share of a stretch from which somebody carries it, and how many are named."""
_LIKE, _BESIDE = 0.1, 1.5
"""How alike two stretches are, by their words, where the talk came back (those of the labelled meetings are up to .08 alike where it did
not, .11 where it did); and how much more than the one before it."""
_KINDS = ("decision", "action", "question")


@dataclass(frozen=True, slots=True)
class Stretch:
    """A chapter, or several short ones in a row, seconds `start` to `end`. `carried`: who spoke most of it, with their share. `back_to`: the
    place of the earlier stretch on whose subject the talk is again."""

    title: str
    start: float
    end: float
    carried: tuple[tuple[str, float], ...]
    findings: tuple[Finding, ...]
    back_to: int | None = None


def map_of(record: Record, reading: Reading) -> list[Stretch]:
    """The stretches in their order; none of an empty record. Only what is standing is on the map."""
    chapters = _at_most(reading.chapters, record)
    spans = [Span(chapter.start, end) for chapter, end in zip(chapters, _ends(chapters, record), strict=True)]
    stated = [one for one in reading.findings if one.kind in _KINDS and one.status == "standing"]
    back = _returns(record, spans)
    return [
        Stretch(
            chapter.title,
            span.start,
            span.end,
            _carried(record, span),
            tuple(one for one in stated if span.start <= one.start < span.end),
            back.get(place),
        )
        for place, (chapter, span) in enumerate(zip(chapters, spans, strict=True))
    ]


def _ends(chapters: Sequence[Chapter], record: Record) -> list[float]:
    last = max((turn.end for turn in record.turns), default=0.0)
    return [*(chapter.start for chapter in chapters[1:]), last + 0.001] if chapters else []


def _at_most(chapters: Sequence[Chapter], record: Record) -> list[Chapter]:
    kept = list(chapters)
    while len(kept) > MOST:
        lengths = [end - chapter.start for chapter, end in zip(kept, _ends(kept, record), strict=True)]
        kept.pop(min(range(1, len(kept)), key=lambda place: lengths[place]))
    return kept


def _carried(record: Record, span: Span) -> tuple[tuple[str, float], ...]:
    people = airtime(record, span).people
    return tuple((one.speaker, one.share) for one in people[:_CARRIERS] if one.share >= _CARRY)


def _returns(record: Record, spans: Sequence[Span]) -> dict[int, int]:
    """Place of a stretch → that of an earlier one, not the one before it, with which it shares the words that few others have."""
    bags = [Counter(term for turn in record.turns if span.start <= turn.start < span.end for term in terms(turn.text)) for span in spans]
    spread = Counter(term for bag in bags for term in bag)
    weights = [{term: (1 + math.log(count)) * math.log(len(bags) / spread[term]) for term, count in bag.items()} for bag in bags]

    def like(one: int, other: int) -> float:
        norm = math.hypot(*weights[one].values()) * math.hypot(*weights[other].values())
        return sum(weight * weights[other].get(term, 0.0) for term, weight in weights[one].items()) / norm if norm else 0.0

    found = {}
    for place in range(2, len(spans)):
        best = max(range(place - 1), key=lambda other: like(place, other))
        if like(place, best) >= max(_LIKE, _BESIDE * like(place, place - 1)):
            found[place] = best
    return found
