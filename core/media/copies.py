"""Copies of a recording's sound: one that any browser plays and seeks in, one of a passage alone, one to take away."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from fractions import Fraction
from pathlib import Path
from typing import cast

import av
import numpy as np

from core.media.coding import Track
from core.media.decode import decoded, frames
from core.media.probe import open_media
from core.record.timeline import Span

_RATE = 48_000  # Opus works at 48 kHz
_BITS_A_SECOND = 40_000  # speech in one channel is transparent to most ears from about 32 kbit/s (RFC 6716, section 2.1.1)


def listening_copy(path: Path, target: Path, progress: Callable[[float], None] = lambda seconds: None) -> None:
    """Write the first sound stream of `path`, mixed to one channel, to `target` as Opus in WebM with an index for seeking.

    progress is told the seconds written so far. Raises InputProblem as `decode` does.
    """
    told = 0.0

    def blocks() -> Iterator[np.ndarray]:
        nonlocal told
        for block, seconds in frames(path, _RATE):
            yield block
            if seconds - told >= 60:
                told = seconds
                progress(seconds)

    _write(target, blocks())


def _write(target: Path, blocks: Iterable[np.ndarray]) -> None:
    written = 0
    with av.open(str(target), "w", format="webm", options={"cues_to_front": "1", "cluster_time_limit": "2000"}) as container:
        stream = container.add_stream("libopus", rate=_RATE, layout="mono")
        stream.bit_rate = _BITS_A_SECOND
        stream.options = {"application": "voip"}
        for block in blocks:
            frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(block).reshape(1, -1), format="s16", layout="mono")
            frame.sample_rate, frame.pts, frame.time_base = _RATE, written, Fraction(1, _RATE)
            written += len(block)
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))


def excerpt_copy(listening: Path, target: Path, span: Span) -> None:
    """Write what is heard in a span of a listening copy, and nothing else, as a listening copy of its own."""
    _write(target, _within(listening, span))


def _within(listening: Path, span: Span) -> Iterator[np.ndarray]:
    resampler = av.AudioResampler(format="s16", layout="mono", rate=_RATE)
    first, end = round(span.start * _RATE), round(span.end * _RATE)
    with av.open(str(listening)) as container:
        stream = container.streams.audio[0]
        # A little earlier: Opus needs 80 ms to settle after a jump (RFC 7845, section 4.6).
        container.seek(int(max(0.0, span.start - 1.0) * av.time_base))
        for frame in container.decode(stream):
            at = round((frame.time or 0.0) * _RATE)
            if at >= end:
                return
            for block in resampler.resample(frame):
                sound = block.to_ndarray().reshape(-1)
                inside = sound[max(0, first - at) : max(0, end - at)]
                at += len(sound)
                if len(inside):
                    yield inside


FORMS = {"opus": ("ogg", "libopus", "audio/ogg"), "flac": ("flac", "flac", "audio/flac"), "wav": ("wav", "pcm_s16le", "audio/wav"),
         "mp3": ("mp3", "libmp3lame", "audio/mpeg")}  # fmt: skip
"""Forms in which sound is taken away: container, codec, media type."""


def sound_copy(path: Path, target: Path, form: str, progress: Callable[[float], None] = lambda seconds: None) -> None:
    """Write the first sound stream of a recording in a form of FORMS, with its channels and without tags. Raises InputProblem as `decode` does.

    progress: told the seconds that are written.
    """
    container, codec, _ = FORMS[form]
    with open_media(path) as source, av.open(str(target), "w", format=container) as sink:
        stream = source.streams.audio[0]
        track = Track(sink, stream, codec)
        for _, frame in decoded(source, [stream]):
            progress(track.take(cast(av.AudioFrame, frame), ()))
        track.end()
