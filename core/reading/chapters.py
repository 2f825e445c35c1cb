"""Chapters: contiguous stretches on one subject, after TextTiling (Hearst 1997), titled in the meeting's own words."""

from __future__ import annotations

import math
import re
from collections import Counter
from dataclasses import dataclass

import numpy as np
import snowballstemmer

from core.reading.encoder import LABELS, Turns
from core.reading.words import STOP
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
    """A stretch that starts at a turn; `start` in seconds."""

    title: str
    from_turn: int
    start: float


_stem = snowballstemmer.stemmer("english").stemWord


def terms(text: str) -> list[str]:
    """The content words of a text, stemmed."""
    return [_stem(word) for word in re.findall(r"[^\W\d_][\w'’-]+", text.lower()) if word.replace("’", "'") not in STOP and len(word) > 2]


def find_chapters(record: Record, read: Turns) -> list[Chapter]:
    """Chapters in order; the first starts at the first turn. Empty for an empty record."""
    turns = record.turns
    if not turns:
        return []
    bags = [Counter(terms(turn.text)) for turn in turns]
    spread = Counter(term for bag in bags for term in bag)
    weight = {term: math.log((len(turns) + 1) / count) for term, count in spread.items()}
    depth = _depths(turns, bags, weight) + _SEAM * read.likely[:, LABELS.index("seam")] + _APART * _changes(read.vectors)
    wanted = max(1, round(len(turns) / _TURNS_A_CHAPTER))
    apart = max(_SHORTEST, len(turns) // (2 * wanted))
    seams = [0]
    for seam in sorted(range(1, len(turns)), key=lambda i: -depth[i]):
        if len(seams) >= wanted:
            break
        if all(abs(seam - other) >= apart for other in seams) and len(turns) - seam >= apart:
            seams.append(seam)
    seams.sort()
    return [
        Chapter(_title(turns[a:b], bags[a:b], spread), turns[a].id, turns[a].start)
        for a, b in zip(seams, [*seams[1:], len(turns)], strict=True)
    ]


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


def _title(turns: tuple[Turn, ...], bags: list[Counter], spread: Counter) -> str:
    """The two or three words most of this chapter and least of the rest, as they were said."""
    inside = sum(bags, Counter())
    names = {_stem(part.lower()) for turn in turns for part in turn.speaker.split()}
    ranked = sorted((term for term in inside if term not in names), key=lambda t: (-inside[t] * inside[t] / spread[t], -inside[t], t))[:3]
    forms: dict[str, Counter] = {term: Counter() for term in ranked}
    for turn in turns:
        for word in re.findall(r"[^\W\d_][\w'’-]+", turn.text):
            if (term := _stem(word.lower())) in forms:
                forms[term][word.lower() if word.lower() in turn.text else word] += 1
    said = [max(found, key=lambda form: (found[form], form)) for found in forms.values() if found]
    text = ", ".join(said) or "Opening"
    return text[:1].upper() + text[1:]
