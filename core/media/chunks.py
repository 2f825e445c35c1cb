"""Sound as a capture sends it: numbered chunks of plain samples, cut free of what is struck, joined into one lossless file.

A chunk is one second of int16 samples (little-endian), the channels interleaved; only the last of a stretch may be shorter. Plain
samples make a lost, doubled or late chunk harmless to its neighbours, and keep several tracks in step by construction.
"""

from __future__ import annotations

import base64
import binascii
import hashlib
import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from core.problems import InputProblem

CAPTURE_RATE = 24_000
"""Samples a second and channel: all of speech that carries words, at half the bytes of 48 kHz."""
CHUNK = CAPTURE_RATE
"""Samples of a channel in a full chunk."""
_WIDTH = 2  # bytes of a sample
_DIGEST = re.compile(r"(?:^|,)\s*sha-256=:([A-Za-z0-9+/=]+):")


class Damaged(InputProblem):
    """A chunk whose bytes are not the ones that were sent."""


@dataclass(frozen=True, slots=True, order=True)
class Samples:
    """A range of samples of a stretch, per channel: `first` is in it, `end` is not."""

    first: int
    end: int


def check_digest(data: bytes, header: str) -> str:
    """The SHA-256 (hexadecimal) of a chunk that carries its Content-Digest (RFC 9530, section 2).

    Raises Damaged when the header is missing, cannot be read, or names other bytes.
    """
    stated = _DIGEST.search(header)
    if not stated:
        raise Damaged("A chunk comes with its Content-Digest, as sha-256. Send it again with that.")
    actual = hashlib.sha256(data)
    try:
        expected = base64.b64decode(stated[1], validate=True)
    except binascii.Error:
        expected = b""
    if expected != actual.digest():
        raise Damaged("The chunk arrived damaged: its bytes are not those of its Content-Digest. Send it again.")
    return actual.hexdigest()


def count_samples(data: bytes, channels: int) -> int:
    """Samples a channel in a chunk. Raises Damaged when it does not hold whole samples of every channel, or more than a second."""
    frame = _WIDTH * channels
    if len(data) % frame or len(data) > CHUNK * frame:
        raise Damaged(f"A chunk holds up to {CHUNK} whole samples of {channels} channels, 16 bit each. This one has {len(data)} bytes.")
    return len(data) // frame


def cut_free(data: bytes, number: int, channels: int, struck: Iterable[Samples], before: Iterable[Samples] = ()) -> bytes:
    """What is left of chunk `number` without the samples that are struck from its stretch.

    before: what was struck from it earlier, and is not in `data` any more.
    """
    samples = np.frombuffer(data, "<i2").reshape(-1, channels)
    places = number * CHUNK + np.arange(CHUNK)
    places = places[~_inside(places, before)][: len(samples)]
    return samples[~_inside(places, struck)].tobytes()


def _inside(places: np.ndarray, parts: Iterable[Samples]) -> np.ndarray:
    found = np.zeros(len(places), bool)
    for part in parts:
        found |= (places >= part.first) & (places < part.end)
    return found


def left_before(at: int, struck: Iterable[Samples]) -> int | None:
    """Where sample `at` of a stretch lies once what is struck has been cut out of it; None when it is struck itself."""
    left, until = at, 0
    for part in sorted(struck):
        if part.first <= at < part.end:
            return None
        left -= max(0, min(part.end, at) - max(part.first, until)) if part.first < at else 0
        until = max(until, part.end)
    return left


def placed(data: bytes, columns: Sequence[int], channels: int) -> np.ndarray:
    """The samples of a chunk, shape (samples, channels), its channels in the given columns and silence in the others."""
    samples = np.frombuffer(data, "<i2").reshape(-1, len(columns))
    if len(columns) == channels:
        return samples
    wide = np.zeros((len(samples), channels), "<i2")
    wide[:, list(columns)] = samples
    return wide


def write_flac(target: Path, blocks: Iterable[np.ndarray], channels: int) -> int:
    """Join blocks of int16 samples, shape (samples, channels), 1 or 2 channels, into a FLAC file; returns its samples a channel."""
    layout = {1: "mono", 2: "stereo"}[channels]
    total = 0
    with av.open(str(target), "w", format="flac") as container:
        stream = container.add_stream("flac", rate=CAPTURE_RATE, layout=layout, format="s16")
        for block in blocks:
            if len(block) == 0:
                continue
            frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(block).reshape(1, -1), format="s16", layout=layout)
            frame.sample_rate, frame.pts, frame.time_base = CAPTURE_RATE, total, Fraction(1, CAPTURE_RATE)
            total += len(block)
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return total


def read_flac(path: Path) -> Iterator[np.ndarray]:
    """The blocks of a file that `write_flac` wrote, shape (samples, channels)."""
    with av.open(str(path)) as container:
        stream = container.streams.audio[0]
        for frame in container.decode(stream):
            yield frame.to_ndarray().reshape(-1, stream.codec_context.channels)
