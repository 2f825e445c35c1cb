"""A record that grows while people speak: what the encoder has said of its turns is kept, and only those that are new or have grown are read."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Mapping, Sequence

import numpy as np

from core.reading.encoder import Encoder, Turns
from core.record.model import Turn

_AROUND = 6
"""Turns before and after those to be read that are read with them: a turn is read for what it is among others."""

Known = Mapping[str, tuple[np.ndarray, np.ndarray]]
"""Of a turn, by its key: a row of `Turns.likely` and one of `Turns.vectors`."""


def key_of(turn: Turn) -> str:
    """The same for a turn of the same words by the same speaker."""
    return hashlib.sha256(f"{turn.speaker}\n{turn.text}".encode()).hexdigest()


def read_along(encoder: Encoder, turns: Sequence[Turn], known: Known) -> Turns:
    """What the encoder says of all turns. known: of those read before."""
    if not turns:
        return encoder.turns(turns)
    keys = [key_of(turn) for turn in turns]
    rows: list[tuple[np.ndarray, np.ndarray] | None] = [known.get(key) for key in keys]
    for first, end in _spans([at for at, row in enumerate(rows) if row is None]):
        start = max(0, first - _AROUND)
        fresh = encoder.turns(turns[start : end + _AROUND])
        for at in range(first, end):
            rows[at] = fresh.likely[at - start], fresh.vectors[at - start]
    read = [row for row in rows if row is not None]
    return Turns(np.stack([likely for likely, _ in read]), np.stack([vector for _, vector in read]))


def _spans(places: Sequence[int]) -> Iterator[tuple[int, int]]:
    """Places in order as spans, those that are nearer to each other than what is read around them as one."""
    first = last = None
    for at in places:
        if first is None or last is None:
            first = at
        elif at - last > 2 * _AROUND:
            yield first, last + 1
            first = at
        last = at
    if first is not None and last is not None:
        yield first, last + 1
