"""Separate tracks: a channel a participant, or one side of a call each. Which of them somebody speaks into needs no guessing."""

from __future__ import annotations

import string
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
_DIGITS = string.digits + string.ascii_letters  # a character a track
MOST = len(_DIGITS)
"""Tracks that are told apart."""
_BOTH = "="  # several about as loud
_MOSTLY, _SOME = 0.6, 0.02  # shares of the places where somebody speaks


class TrackLine:
    """Written down while the sound of all the tracks goes by: which is loudest, a character each tenth of a second."""

    def __init__(self, rate: int, clearly: float = 1.0) -> None:
        """rate: of the sound that is handed in, a multiple of ten. clearly: how many times louder than every other a track has to be."""
        self._place, self._clearly = rate // PER_SECOND, clearly
        self._rest: np.ndarray | None = None
        self._marks: list[str] = []

    def add(self, block: np.ndarray) -> None:
        """More sound, shape (samples, tracks), int16."""
        rest = block.astype(np.float64) if self._rest is None else np.concatenate([self._rest, block.astype(np.float64)])
        whole = len(rest) // self._place
        for place in rest[: whole * self._place].reshape(whole, self._place, block.shape[1]):
            self._marks.append(mark(np.sqrt((place**2).mean(axis=0)), self._clearly))
        self._rest = rest[whole * self._place :]

    @property
    def written(self) -> str:
        """What is written so far; "-" where nobody speaks, or it is not clear who."""
        return "".join(self._marks).replace(_BOTH, "-")


def mark(levels: np.ndarray, clearly: float) -> str:
    """The character of the loudest of several tracks. levels: root mean squares of int16 samples, shape (tracks,)."""
    loudest = int(levels.argmax())
    if levels[loudest] < _QUIET or loudest >= len(_DIGITS):
        return "-"
    others = np.delete(levels, loudest)
    return _DIGITS[loudest] if not len(others) or levels[loudest] >= clearly * max(others.max(), 1e-9) else _BOTH


def line_of_tracks(paths: Sequence[Path], channels: int = 1) -> str:
    """Which track is loudest, a character each tenth of a second: "0", "1" … or "-" where none is; "" where tracks are not separate.

    paths: several files that run at once, or one file with `channels` channels (two at most are told apart). Raises InputProblem as
    `decode` does.
    """
    one_file = len(paths) == 1
    if one_file and channels != 2:
        return ""
    silent = np.zeros(2 if one_file else 1)
    loudness = zip_longest(*(_loudness(path, len(silent)) for path in paths), fillvalue=silent)
    line = [mark(np.concatenate(row), _CLEARLY) for row in loudness]
    spoken = [place for place in line if place != "-"]
    shares = [line.count(_DIGITS[track]) / max(1, len(spoken)) for track in range(len(paths) if len(paths) > 1 else 2)]
    # One side of a file that is silent is a fault of the recording and no second participant.
    if sum(shares) < _MOSTLY or one_file and min(shares) < _SOME:
        return ""
    return "".join(line).replace(_BOTH, "-")


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
    return _DIGITS.index(max(set(places), key=places.count)) if places else None
