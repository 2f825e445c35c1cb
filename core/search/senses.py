"""What talk is about, as small numbers that a database can hold and compare: vectors as bytes and as signs."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from core.reading.encoder import unit
from core.reading.words import terms

_ENOUGH = 2  # content words
_STEPS = 127.0


def packed(senses: np.ndarray) -> list[bytes]:
    """Vectors of length 1, shape (n, width), each as one signed byte a value."""
    return [row.tobytes() for row in np.round(np.clip(senses, -1.0, 1.0) * _STEPS).astype(np.int8)]


def unpacked(rows: Sequence[bytes]) -> np.ndarray:
    """The way back, shape (n, width); each of length 1 again."""
    if not rows:
        return np.zeros((0, 0), np.float32)
    return unit(np.stack([np.frombuffer(row, np.int8) for row in rows]).astype(np.float32))


def around(senses: np.ndarray, of: np.ndarray) -> np.ndarray:
    """What each turn is about with those beside it: the mean of theirs. of: which record each is of, in order; neighbours are of the same one."""
    if not len(senses):
        return senses
    same = (of[1:] == of[:-1]).astype(senses.dtype)[:, None]
    wide = senses.copy()
    wide[1:] += same * senses[:-1]
    wide[:-1] += same * senses[1:]
    return unit(wide)


def says_enough(text: str) -> bool:
    """Is a turn about something by itself ("Yes, do that." is not)? Of the turns of the labelled meetings two in three are, and the meeting
    that answers a question is found by them as often as by all."""
    return len(set(terms(text))) >= _ENOUGH


def signs(sense: np.ndarray) -> str:
    """The sign of each value as 0 or 1. The share in which two differ is their angle over π, in expectation (Charikar, STOC 2002, on
    random directions; that an encoder's own directions do nearly as well is common practice)."""
    return "".join("1" if value > 0 else "0" for value in sense)
