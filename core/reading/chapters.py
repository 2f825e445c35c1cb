"""Chapters: contiguous stretches on one subject, after TextTiling (Hearst 1997), titled in the meeting's own words or as its agenda has it."""

from __future__ import annotations

import math
import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from core.reading.base import Said
from core.reading.encoder import LABELS, Turns
from core.reading.topics import title_of
from core.reading.words import terms
from core.record.model import Record, Turn

# People say so when they move on.
MOVES_ON = re.compile(
    r"^(?:so|okay|ok|right|all right|good|now|can (?:we|i)|sorry|anyway|last|next|then|moving on|one more|the other thing|while we're at it|item \w+|who's|what's)\b"
    r"(?=(?:\W+\w+){7})",
    re.IGNORECASE,
)

_SIDE = 14  # turns compared on either side of a seam
_SHORTEST = 4  # turns
_TURNS_A_CHAPTER = 17  # on average, in the labelled meetings
# Beside the words: how much the encoder's word for a seam counts, how much that turns before and after answer different questions, and
# how many turns of each side are compared for that. Chosen by cross-validation on two thirds of the labelled meetings.
_SEAM, _APART, _NEAR = 0.3, 0.5, 8


@dataclass(frozen=True, slots=True)
class Chapter:
    """A stretch that starts at a turn; `start` in seconds. `by`: what gave it its title. `summary`: a sentence or two on what came of it,
    and the lines they rest on, where a writer has written them."""

    title: str
    from_turn: int
    start: float
    by: Literal["agenda", "rules", "writer"] = "rules"
    summary: str = ""
    rests_on: tuple[Said, ...] = ()


@dataclass(frozen=True, slots=True)
class AgendaPoint:
    """A point of the agenda; `begun_at`: the second of the record at which it was begun, where the agenda was run along."""

    text: str
    begun_at: float | None = None


def find_chapters(record: Record, read: Turns, agenda: Sequence[AgendaPoint] = ()) -> list[Chapter]:
    """Chapters in order; the first starts at the first turn. Empty for an empty record.

    A point of the agenda that was begun starts a chapter there and gives it its title; of one that was not, a chapter that talks of it
    takes the title.
    """
    turns = record.turns
    if not turns:
        return []
    bags = [Counter(terms(turn.text)) for turn in turns]
    spread = Counter(term for bag in bags for term in bag)
    weight = {term: math.log((len(turns) + 1) / count) for term, count in spread.items()}
    depth = _depths(turns, bags, weight) + _SEAM * read.likely[:, LABELS.index("seam")] + _APART * _changes(read.vectors)
    wanted = max(1, round(len(turns) / _TURNS_A_CHAPTER))
    apart = max(_SHORTEST, len(turns) // (2 * wanted))
    begun = _begun(turns, agenda)
    seams = sorted({0, *begun})
    for seam in sorted(range(1, len(turns)), key=lambda i: -depth[i]):
        if len(seams) >= wanted:
            break
        if all(abs(seam - other) >= apart for other in seams) and len(turns) - seam >= apart:
            seams.append(seam)
    seams.sort()
    stretches = list(zip(seams, [*seams[1:], len(turns)], strict=True))
    titles = _titles_of_points([bags[a:b] for a, b in stretches], [point for point in agenda if point.begun_at is None])
    found = []
    for number, (a, b) in enumerate(stretches):
        given = begun.get(a) or titles.get(number)
        found.append(Chapter(given or title_of(turns[a:b], record), turns[a].id, turns[a].start, "agenda" if given else "rules"))
    return found


def _begun(turns: tuple[Turn, ...], agenda: Sequence[AgendaPoint]) -> dict[int, str]:
    """Index of the first turn after a point was begun → its text."""
    begun = {}
    for point in agenda:
        if point.begun_at is not None:
            first = next((index for index, turn in enumerate(turns) if turn.end > point.begun_at + 1.0), None)
            if first is not None:
                begun[first] = point.text
    return begun


_NAMED = 0.6
"""Share of a point's words that a chapter has to have to be about it."""


def _titles_of_points(chapters: list[list[Counter]], points: list[AgendaPoint]) -> dict[int, str]:
    """Number of a chapter → the point that it has most of, one chapter a point."""
    said = [sum(bags, Counter()) for bags in chapters]
    titles: dict[int, str] = {}
    for point in points:
        words = set(terms(point.text))
        if not words:
            continue
        # How much of the point's words is said in a chapter, by how often: a word in passing is not a subject.
        weights = [
            sum(min(bag[word], 4) for word in words) if len(words & set(bag)) >= _NAMED * len(words) and number not in titles else 0
            for number, bag in enumerate(said)
        ]
        best = max(range(len(weights)), key=lambda number: weights[number], default=None)
        if best is not None and weights[best] >= 2:
            titles[best] = point.text
    return titles


def _changes(vectors: np.ndarray) -> np.ndarray:
    """How little the turns before each one are like it and those after it, 0 to 2."""
    changes = np.zeros(len(vectors))
    for i in range(1, len(vectors)):
        before, after = vectors[max(0, i - _NEAR) : i].mean(0), vectors[i : i + _NEAR].mean(0)
        changes[i] = 1 - before @ after / max(1e-9, np.linalg.norm(before) * np.linalg.norm(after))
    return changes


def _depths(turns: tuple[Turn, ...], bags: list[Counter], weight: dict[str, float]) -> np.ndarray:
    """How deep each seam cuts: low likeness between its sides below the peaks around it, plus a move-on word."""
    likeness = [1.0] + [
        _likeness(sum(bags[max(0, i - _SIDE) : i], Counter()), sum(bags[i : i + _SIDE], Counter()), weight) for i in range(1, len(bags))
    ]
    depths = []
    for i, here in enumerate(likeness):
        left, right = max(likeness[max(0, i - _SIDE) : i + 1]), max(likeness[i : i + _SIDE])
        depths.append((left - here) + (right - here) + (0.2 if MOVES_ON.match(turns[i].text) else 0.0))
    return np.array(depths)


def _likeness(one: Counter, other: Counter, weight: dict[str, float]) -> float:
    def norm(bag: Counter) -> float:
        return math.sqrt(sum((count * weight[term]) ** 2 for term, count in bag.items())) or 1.0

    return sum(count * other[term] * weight[term] ** 2 for term, count in one.items() if term in other) / (norm(one) * norm(other))
