"""The sound of a call as it comes: frames of several participants, each by a clock of its own, laid onto the seconds of one stretch."""

from __future__ import annotations

from dataclasses import dataclass, field
from math import inf

import numpy as np

from core.media.chunks import CAPTURE_RATE, CHUNK

_STALLED = 0.5
"""Seconds by which a track's clock may run away from ours before it is set anew: longer than a network delays, shorter than a pause in a talk."""
_HELD_UP = 2.0
"""Seconds by which frames may be late that a busy machine or network held up on the way; later ones come from a track that had stopped."""
_STAYS = 3.0
"""A track of which every frame was late for so many seconds was not held up: it had stopped."""


@dataclass
class Clock:
    """Where frames of a track lie: by their own time stamps (RFC 3550, section 5.1), which do not jitter, anchored at when the first arrived."""

    _offset: float | None = None
    _end: float = -inf
    _since: float = 0.0
    _least: float = inf  # late, of what has come since then

    def place(self, stamp: float, length: float, arrived: float, open_from: float = -inf) -> float:
        """The second at which a frame begins: where its stamp says, never before the one before it ended, nor in what is through already.

        stamp: seconds by the track's clock. arrived, open_from: by ours; what lies before `open_from` is through.
        """
        due = arrived - length
        if self._offset is None:
            self._offset, self._since = due - stamp, arrived
        late = due - (stamp + self._offset)
        self._least = min(self._least, late)
        if not -_STALLED <= late <= _HELD_UP:
            self._offset = due - stamp
        elif arrived - self._since >= _STAYS:
            if self._least > _STALLED:
                self._offset += self._least
            self._since, self._least = arrived, inf
        begins = max(stamp + self._offset, self._end, open_from)
        self._end = begins + length
        return begins


@dataclass
class Seconds:
    """A stretch's sound by seconds: int16 samples, CAPTURE_RATE a second, `slots` tracks; silence where nothing comes."""

    slots: int
    # Up to this second it has been taken; what comes for earlier ones is lost, and counted.
    taken: int = 0
    lost: int = 0
    _open: dict[int, np.ndarray] = field(default_factory=dict)

    def put(self, slot: int, at: float, samples: np.ndarray) -> None:
        """Lay samples of a track, shape (n,), onto the stretch. at: its second. Two that overlap are added, as two sounds are."""
        first = round(at * CAPTURE_RATE)
        while len(samples):
            number, place = divmod(first, CHUNK)
            part, samples = samples[: CHUNK - place], samples[CHUNK - place :]
            first += len(part)
            if number < self.taken:
                self.lost += len(part)
                continue
            second = self._open.setdefault(number, np.zeros((CHUNK, self.slots), np.int16))
            goes = second[place : place + len(part), slot].astype(np.int32) + part
            second[place : place + len(part), slot] = np.clip(goes, -32768, 32767)

    def widened(self, slots: int) -> Seconds:
        """What goes on after what has been taken, as a stretch of its own with more tracks."""
        more = Seconds(slots)
        for number, second in self._open.items():
            more._open[number - self.taken] = np.pad(second, ((0, 0), (0, slots - self.slots)))
        return more

    def take(self, length: int = CHUNK) -> bytes:
        """The next second as a chunk, its tracks interleaved. length: samples of it, where it is the last of the stretch."""
        second = self._open.pop(self.taken, None)
        self.taken += 1
        return (second if second is not None else np.zeros((CHUNK, self.slots), np.int16))[:length].tobytes()
