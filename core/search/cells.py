"""Where talk falls: a fixed number of places in the space of what turns are about, so that what is alike is looked for in the nearest alone.

An inverted file, as of Sivic and Zisserman (ICCV 2003) and Jégou, Douze and Schmid (PAMI 2011): `python -m bench.cells` made the places by
k-means over labelled talk and measured what is lost.
"""

from __future__ import annotations

from functools import cache
from pathlib import Path

import numpy as np

from core.reading.encoder import unit

MADE = Path(__file__).parent / "cells.npy"


@cache
def _places() -> np.ndarray:
    """Shape (cells, width), each of length 1."""
    return unit(np.load(MADE).astype(np.float32))


def cells() -> int:
    """How many there are."""
    return len(_places())


def cells_of(senses: np.ndarray) -> np.ndarray:
    """The number of the cell that each vector of `Encoder.plain` falls into, shape (n,)."""
    return (senses @ _places().T).argmax(axis=1)


def nearest_cells(sense: np.ndarray, share: float) -> list[int]:
    """The numbers of those that are nearest to a vector. share: of all of them, 0 to 1."""
    return [int(cell) for cell in np.argsort(-(_places() @ sense))[: round(share * cells())]]
