"""Separate tracks: a channel a participant, or one side of a call each. Which of them somebody speaks into needs no guessing."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import zip_longest
from pathlib import Path

import numpy as np

from core.media.decode import frames

PER_SECOND = 10
"""Places a second in a line of tracks."""
_RATE = 8000
_PLACE = _RATE // PER_SECOND
_QUIET = 10 ** (-50 / 20) * 32768  # -50 dBFS: under it nobody speaks into a track
_CLEARLY = 10 ** (10 / 20)  # 10 dB louder than every other: a room heard by two microphones does not come near that
_BOTH = "="  # several about as loud
_MOSTLY, _SOME = 0.6, 0.02  # shares of the places where somebody speaks


def line_of_tracks(paths: Sequence[Path], channels: int = 1) -> str:
    """Which track is loudest, a character each tenth of a second: "0", "1" … or "-" where none is; "" where tracks are not separate.

    paths: several files that run at once, or one file with `channels` channels (two at most are told apart). Raises InputProblem as
    `decode` does.
    """
    one_file = len(paths) == 1
    if one_file and channels != 2:
        return ""
    silent = np.zeros(2 if one_file else 1)
    line: list[str] = []
    for row in zip_longest(*(_loudness(path, len(silent)) for path in paths), fillvalue=silent):
        levels = np.concatenate(row)
        line.append("-" if levels.max() < _QUIET else str(int(levels.argmax())) if _clear(levels) else _BOTH)
    spoken = [place for place in line if place != "-"]
    shares = [line.count(str(track)) / max(1, len(spoken)) for track in range(len(paths) if len(paths) > 1 else 2)]
    # One side of a file that is silent is a fault of the recording and no second participant.
    if sum(shares) < _MOSTLY or one_file and min(shares) < _SOME:
        return ""
    return "".join(line).replace(_BOTH, "-")


def _clear(levels: np.ndarray) -> bool:
    first, second = np.sort(levels)[::-1][:2]
    return first >= _CLEARLY * max(second, 1e-9)


def _loudness(path: Path, channels: int) -> Iterator[np.ndarray]:
    """Root mean square of each channel for each tenth of a second, shape (channels,)."""
    rest = np.zeros((0, channels))
    for block, _ in frames(path, _RATE, "stereo" if channels == 2 else "mono"):
        rest = np.concatenate([rest, block.reshape(-1, channels).astype(np.float64)])
        whole = len(rest) // _PLACE
        for place in rest[: whole * _PLACE].reshape(whole, _PLACE, channels):
            yield np.sqrt((place**2).mean(axis=0))
        rest = rest[whole * _PLACE :]


def track_at(line: str, start: float, end: float) -> int | None:
    """The track that somebody speaks into between two seconds; None where the line does not say."""
    places = [
        place for place in line[int(start * PER_SECOND) : max(int(start * PER_SECOND) + 1, int(np.ceil(end * PER_SECOND)))] if place != "-"
    ]
    return int(max(set(places), key=places.count)) if places else None
