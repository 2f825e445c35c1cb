"""Several files of one meeting as one sound."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path

import numpy as np

from core.media.chunks import CAPTURE_RATE
from core.media.decode import frames


def in_a_row(paths: Sequence[Path]) -> Iterator[np.ndarray]:
    """The sounds one behind the other: int16 blocks of shape (samples,), CAPTURE_RATE samples a second. Raises InputProblem."""
    for path in paths:
        for block, _ in frames(path, CAPTURE_RATE):
            yield block


def at_once(paths: Sequence[Path]) -> Iterator[np.ndarray]:
    """The sounds added up from a common beginning, as long as the longest, blocks as `in_a_row` gives. Raises InputProblem.

    Tracks of one meeting are mostly silent while another one speaks, so a plain sum seldom overflows; where it would, it is cut.
    """
    sources = [_seconds(path) for path in paths]
    while blocks := [block for block in (next(source, None) for source in sources) if block is not None]:
        mixed = np.zeros(max(len(block) for block in blocks), np.int32)
        for block in blocks:
            mixed[: len(block)] += block
        yield np.clip(mixed, -32768, 32767).astype(np.int16)


def _seconds(path: Path) -> Iterator[np.ndarray]:
    """Blocks of exactly a second, the last one shorter."""
    kept: list[np.ndarray] = []
    size = 0
    for block, _ in frames(path, CAPTURE_RATE):
        kept.append(block)
        size += len(block)
        if size >= CAPTURE_RATE:
            whole = np.concatenate(kept)
            for start in range(0, len(whole) - CAPTURE_RATE + 1, CAPTURE_RATE):
                yield whole[start : start + CAPTURE_RATE]
            kept = [whole[len(whole) // CAPTURE_RATE * CAPTURE_RATE :]]
            size = len(kept[0])
    if size:
        yield np.concatenate(kept)
