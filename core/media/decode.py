"""Any media file → 16 kHz mono sound on disk, in bounded memory."""

from __future__ import annotations

import struct
from collections.abc import Callable, Iterator
from itertools import chain
from pathlib import Path
from typing import cast

import av
import numpy as np
from av.error import FFmpegError

from core.media.probe import open_media
from core.problems import InputProblem

RATE = 16_000
"""Samples a second of all sound inside the program: what the recogniser and the embedding were trained on."""

LONGEST = 12 * 3600
"""Seconds of a recording that is taken in."""
TOO_LONG = f"This recording is longer than {LONGEST // 3600} hours. Cut it into parts, and give those as one meeting."

_HEADER = 44  # bytes of a canonical WAV header (RIFF/WAVE, PCM)


def decoded(source: av.container.InputContainer, streams: list) -> Iterator[tuple[int, av.AudioFrame | av.VideoFrame]]:
    """Decoded frames of the streams as they come, each with its stream's index; damaged packets are left out.

    A file that breaks off is read up to the break.
    """
    packets = source.demux(streams)
    while True:
        try:
            packet = next(packets, None)
        except FFmpegError:  # the container itself breaks off here
            return
        if packet is None:
            return
        try:
            found = packet.decode()
        except FFmpegError:  # a damaged packet: go on with the next
            continue
        for frame in found:
            yield packet.stream.index, cast(av.AudioFrame | av.VideoFrame, frame)


def frames(path: Path, rate: int, layout: str = "mono") -> Iterator[tuple[np.ndarray, float]]:
    """The first sound stream as int16 blocks of shape (samples,) with the seconds reached.

    A file that breaks off is read up to the break. Raises InputProblem when nothing can be decoded.
    """
    with open_media(path) as container:
        stream = next(iter(container.streams.audio), None)
        if stream is None:
            raise InputProblem("This file has no sound, so there is nothing to hear. Give the recording that has the sound.")
        stream.codec_context.thread_type = "AUTO"
        # Blocks of a second: handing on each of a codec's 20 ms by itself takes half as long again.
        resampler = av.AudioResampler(format="s16", layout=layout, rate=rate, frame_size=rate)
        samples = 0
        # None at the end: what the resampler still holds.
        for frame in chain((cast(av.AudioFrame, frame) for _, frame in decoded(container, [stream])), [None]):
            for block in _resampled(resampler, frame):
                samples += len(block)
                # Not every file says how long it is.
                if samples > LONGEST * rate:
                    raise InputProblem(TOO_LONG)
                yield block, samples / rate
        if samples == 0:
            raise InputProblem(
                "No sound could be decoded from this file; it seems to be damaged. Export or copy the recording again and give that."
            )


def _resampled(resampler: av.AudioResampler, frame: av.AudioFrame | None) -> Iterator[np.ndarray]:
    try:
        blocks = resampler.resample(frame)
    except (FFmpegError, ValueError):  # sound whose rate or layout changes in the middle: that frame is left out
        return
    for block in blocks:
        yield block.to_ndarray().reshape(-1)


def decode(path: Path, wav: Path, progress: Callable[[float], None] = lambda seconds: None) -> float:
    """Write the file's sound to `wav` (16 kHz, mono, 16-bit PCM) and return its duration in seconds.

    progress is told the seconds decoded so far. Raises InputProblem as `probe` does. Memory does not grow with length.
    """
    samples, told = 0, 0.0
    with wav.open("wb") as sink:
        sink.write(bytes(_HEADER))
        for block, seconds in frames(path, RATE):
            sink.write(block.tobytes())
            samples += len(block)
            if seconds - told >= 60:
                told = seconds
                progress(seconds)
        sink.seek(0)
        size = samples * 2
        sink.write(
            struct.pack(
                "<4sI4s4sIHHIIHH4sI",
                b"RIFF",
                min(36 + size, 0xFFFFFFFF),
                b"WAVE",
                b"fmt ",
                16,
                1,
                1,
                RATE,
                RATE * 2,
                2,
                16,
                b"data",
                min(size, 0xFFFFFFFF),
            )
        )
    return samples / RATE


def open_sound(wav: Path) -> np.ndarray:
    """The int16 samples of a file that `decode` wrote, shape (samples,), read from disk only where they are touched."""
    return np.memmap(wav, dtype="<i2", mode="r", offset=_HEADER)


def open_sound_to_change(wav: Path) -> np.memmap:
    """The same, so that what is set in it is written to the file."""
    return np.memmap(wav, dtype="<i2", mode="r+", offset=_HEADER)


def as_float(samples: np.ndarray) -> np.ndarray:
    """int16 samples → float32 in -1 … 1, the same shape."""
    return samples.astype(np.float32) / 32768.0
