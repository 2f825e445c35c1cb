"""Slips of the pen: which known words somebody may have meant by one that nothing holds."""

from __future__ import annotations

import re
from collections.abc import Iterable

from rapidfuzz.distance import OSA

from core.reading.words import stem

_SHORTEST, _LONGEST = 4, 40
_FAR = 99
_WORD = re.compile(rf"[^\W\d_]{{{_SHORTEST},{_LONGEST}}}")
_LONG, _MOST = 6, 4
"""Signs of a word in which two slips are forgiven, in a shorter one a single one; and so many words at the most are taken for the one meant."""


def spelled(text: str) -> set[str]:
    """The words of a text that are long enough for a slip in one of them to be told from another word, in small letters."""
    return {word.lower() for word in _WORD.findall(text)}


def meant(word: str, known: Iterable[str]) -> list[str]:
    """Those of the known words that differ from a word, or in their English stems from its stem, by a slip or two, the likest first: a letter too
    many, too few, another, or two that changed places (optimal string alignment distance, as of rapidfuzz); where one slip is enough, nothing
    further off."""
    off = sorted((min(_off(word, one), _off(stem(word), stem(one))), one) for one in known)
    near = [(distance, one) for distance, one in off if 0 < distance < _FAR]
    return [one for distance, one in near if distance == near[0][0]][:_MOST]


def _off(word: str, other: str) -> int:
    """By how many slips; _FAR where there are more than are forgiven in a word of this length."""
    most = 2 if len(word) >= _LONG else 1
    distance = OSA.distance(word, other, score_cutoff=most)
    return distance if distance <= most else _FAR
