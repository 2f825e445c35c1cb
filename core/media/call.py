"""The sound of a call as it comes: frames of several participants, each by a clock of its own, laid onto the seconds of one stretch."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from core.media.chunks import CAPTURE_RATE, CHUNK

_STALLED = 0.5
"""Seconds by which a track's clock may run away from ours before it is set anew: longer than a network delays, shorter than a pause in a talk."""


@dataclass
class Clock:
    """Where frames of a track lie: by their own time stamps (RFC 3550, section 5.1), which do not jitter, anchored at when the first arrived."""

    _offset: float | None = None
    _end: float = 0.0

    def place(self, stamp: float, length: float, arrived: float) -> float:
        """The second at which a frame begins, never before the one before it ended. stamp: seconds by the track's clock; arrived: by ours."""
        due = arrived - length
        if self._offset is None or abs(due - (stamp + self._offset)) > _STALLED:
            self._offset = due - stamp
        begins = max(stamp + self._offset, self._end)
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
