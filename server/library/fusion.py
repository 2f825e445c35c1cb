"""Several rankings of meetings made one."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, MutableMapping
from uuid import UUID

_BESIDE = 60.0
"""Added to a place before its reciprocal is taken: reciprocal rank fusion as Cormack, Clarke and Büttcher (SIGIR 2009) have it."""


def fuse(scores: MutableMapping[UUID, float], ranking: Iterable[UUID], weight: float = 1.0) -> None:
    """Add a ranking, the best first, to what others have said. scores: with 0 for what is not known yet."""
    for place, key in enumerate(ranking):
        scores[key] += weight / (_BESIDE + place)


def best_first(scores: Mapping[UUID, float]) -> list[UUID]:
    """The keys by their scores; those that have the same in an order that stays."""
    return sorted(scores, key=lambda key: (-scores[key], str(key)))
