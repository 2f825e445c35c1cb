"""A copy of a recording's sound that any browser plays and seeks in: Opus in WebM."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import av

from core.media.decode import frames

_RATE = 48_000  # Opus works at 48 kHz
_BITS_A_SECOND = 40_000  # speech in one channel is transparent to most ears from about 32 kbit/s (RFC 6716, section 2.1.1)


def listening_copy(path: Path, target: Path, progress: Callable[[float], None] = lambda seconds: None) -> None:
    """Write the first sound stream of `path`, mixed to one channel, to `target` as Opus in WebM with an index for seeking.

    progress is told the seconds written so far. Raises InputProblem as `decode` does.
    """
    written, told = 0, 0.0
    with av.open(str(target), "w", format="webm", options={"cues_to_front": "1", "cluster_time_limit": "2000"}) as container:
        stream = container.add_stream("libopus", rate=_RATE, layout="mono")
        stream.bit_rate = _BITS_A_SECOND
        stream.options = {"application": "voip"}
        for block, seconds in frames(path, _RATE):
            frame = av.AudioFrame.from_ndarray(block.reshape(1, -1), format="s16", layout="mono")
            frame.sample_rate, frame.pts, frame.time_base = _RATE, written, Fraction(1, _RATE)
            written += len(block)
            container.mux(stream.encode(frame))
            if seconds - told >= 60:
                told = seconds
                progress(seconds)
        container.mux(stream.encode(None))
