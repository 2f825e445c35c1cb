"""The lines most likely wrong, those first where listening pays most."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from core.record.model import Line, Record, Word
from core.record.spacing import written

UNSURE = 0.5
"""Probability under which a word is shown as unsure. Of the demo's words under it about half are wrong, of those over it one in twenty."""


@dataclass(frozen=True, slots=True)
class Doubt:
    """A line to be heard again. `reasons`: "words", "voice", "overlap", "listed" (the word list put something in its place)."""

    line: Line
    weight: float
    reasons: tuple[str, ...]


def doubts(record: Record, most: int = 40) -> list[Doubt]:
    """The lines in doubt, the likeliest wrong first, at most so many: two minutes of listening."""
    found = [doubt for turn in record.turns for line in turn.lines if (doubt := _doubt(line))]
    return sorted(found, key=lambda doubt: (-doubt.weight, doubt.line.start))[:most]


def _doubt(line: Line) -> Doubt | None:
    words = line.words
    unsure = [word for word in words if word.probability < UNSURE]
    strange = sum(word.doubt for word in words)
    reasons = []
    weight = sum(1 - word.probability for word in unsure if _says_something(word))
    if weight > 0:
        reasons.append("words")
    if words and strange >= max(1, len(words) / 2):
        reasons.append("voice")
        weight += 0.7
    if words and sum(word.overlap for word in words) >= max(2, len(words) / 2):
        reasons.append("overlap")
        weight += 0.4
    if any(word.heard and word.probability < 1 for word in words):
        reasons.append("listed")
        weight += 0.5
    return Doubt(line, weight, tuple(reasons)) if reasons else None


def _says_something(word: Word) -> bool:
    return len(word.text.strip(".,?!")) > 3


def unsure_spans(words: Sequence[Word], text: str) -> list[tuple[int, int]]:
    """Where in a line's text its unsure words stand, as [first character, one past the last]; empty where words and text differ."""
    if written(word.text for word in words) != text:
        return []
    spans, at = [], 0
    for word in words:
        at = text.index(word.text, at)
        if word.probability < UNSURE:
            spans.append((at, at + len(word.text)))
        at += len(word.text)
    return spans
