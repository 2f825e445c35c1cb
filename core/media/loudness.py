"""How loud a recording is along its time, for drawing."""

from __future__ import annotations

import numpy as np

from core.media.decode import RATE

_DRAWN = 640  # as fine as the strip is drawn
_BLOCK = 600 * RATE  # samples looked at in one go, so that memory does not grow with length


def peaks(sound: np.ndarray, bins: int = _DRAWN) -> list[float]:
    """The loudest sample of each of `bins` equal stretches, 0 to 1. sound: int16, shape (samples,). Empty for no sound."""
    if len(sound) == 0:
        return []
    edges = np.linspace(0, len(sound), bins + 1).astype(int)
    return [round(_loudest(sound, start, end) / 32768, 3) for start, end in zip(edges, edges[1:], strict=False)]


def _loudest(sound: np.ndarray, start: int, end: int) -> int:
    blocks = (np.asarray(sound[at : min(end, at + _BLOCK)]).astype(np.int32) for at in range(start, end, _BLOCK))
    return max((int(np.abs(block).max()) for block in blocks if len(block)), default=0)
