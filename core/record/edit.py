"""Edits of a record: words replaced without losing their times."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from core.problems import InputProblem
from core.record.model import Word


class Misplaced(InputProblem):
    """An edit that cannot be made where it was asked for."""


def replace_words(words: Sequence[Word], first: int, last: int, text: str) -> list[Word]:
    """The words with `first` … `last` replaced by those of a text, which share out their time by length in characters.

    What a person wrote is certain: probability 1, no doubt about it. Raises Misplaced when there are no such words, or none would be left.
    """
    if not 0 <= first <= last < len(words):
        raise Misplaced("There are no such words in this line.")
    fresh = text.split()
    if not fresh and last - first + 1 == len(words):
        raise Misplaced("Nothing would be left of this line. Strike it instead.")
    old = words[first : last + 1]
    heard = " ".join(word.heard or word.text for word in old)
    start, length = old[0].start, old[-1].end - old[0].start
    total = sum(len(word) for word in fresh)
    made, spoken = [], 0
    for word in fresh:
        begin = start + length * spoken / total
        spoken += len(word)
        end = start + length * spoken / total
        made.append(replace(old[0], text=word, start=round(begin, 3), end=round(end, 3), probability=1.0, doubt=False, heard=heard))
    return [*words[:first], *made, *words[last + 1 :]]
