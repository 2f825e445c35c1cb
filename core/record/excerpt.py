"""A passage of a record by itself: only the words that are said in it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from core.record.model import Turn, timed_words
from core.record.spacing import written
from core.record.timeline import Span

AROUND = 30.0
"""Seconds of an excerpt that nobody has trimmed (common practice)."""


@dataclass(frozen=True, slots=True)
class Said:
    """What one voice says in a passage; times count from the passage's beginning."""

    speaker: str
    text: str
    start: float
    end: float


def clip(turns: Iterable[Turn], span: Span) -> list[Said]:
    """The words whose middle lies within a span, by turns. Of a line without word times, those that its share of time puts there."""
    found = []
    for turn in turns:
        words = [word for line in turn.lines for word in timed_words(line) if span.start <= (word.start + word.end) / 2 < span.end]
        if words:
            start, end = max(0.0, words[0].start - span.start), min(span.duration, words[-1].end - span.start)
            found.append(Said(turn.speaker, written(word.text for word in words), start, end))
    return found


def around(lines: Sequence[Span], at: float, whole: float) -> Span:
    """About AROUND seconds around a moment, from the beginning of a line to the end of one. lines: when each is said."""
    first, last = max(0.0, at - AROUND / 2), min(whole, at + AROUND / 2)
    starts = [line.start for line in lines if abs(line.start - first) <= AROUND / 4 and line.start <= at]
    ends = [line.end for line in lines if abs(line.end - last) <= AROUND / 4 and line.end > at]
    return Span(min(starts, key=lambda start: abs(start - first), default=first), min(ends, key=lambda end: abs(end - last), default=last))
