"""Sound → runs: who of those in earshot speaks from when to when, and what they sound like there.

Segmentation says of each frame which of up to three voices speak; each stretch of one of them is a run, with a vector of its voice.
Which runs are the same person's is for `cluster` to find: the three are numbered anew in every window.
"""

from __future__ import annotations

import os
import threading
from collections.abc import Iterable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import onnxruntime

from core.media.decode import RATE, as_float
from core.parallel import in_order
from core.record.timeline import Span
from core.voices.features import PER_SECOND, log_mel

# The model hears 10 s at a time. Windows are 8 s apart, and each decides on the 8 s in its middle.
_WINDOW, _STEP = 10.0, 8.0
_FRAME, _FIRST = 270 / RATE, 0.031  # seconds of a frame, and the middle of the first: the strides and reach of its filters
# The seven classes as sets of voices (powerset encoding, at most two at a time).
_SETS = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1], [1, 1, 0], [1, 0, 1], [0, 1, 1]], bool)
# Windows heard in one go, and how many times at once: what a worker that dies has to do again stays under a minute. Each has one
# thread: on two, these networks take three fifths more of the processor to be done hardly sooner (measured).
_TOGETHER, _AT_ONCE = 3, 2
# Log-mel frames the embedding is given at once: a run is repeated to the next of these.
_LENGTHS = (60, 100, 150, 200)
_LEAST = 15  # frames without overlap; with fewer, those with overlap are used too
_BATCH = 16
# A pause inside a run: this much quieter than its loud parts (in log power, 4.6 are 20 dB), for this many frames.
_QUIET, _PAUSE = 4.0, 15
_GAP = 8  # frames of the segmentation: where it flickers for less, nobody has stopped


@dataclass(frozen=True, slots=True)
class Run:
    """One voice without a break. `vector`: what it sounds like, length 1; `clear`: seconds of it in which no one else speaks."""

    start: float
    end: float
    clear: float
    vector: np.ndarray

    @property
    def span(self) -> Span:
        """When."""
        return Span(self.start, self.end)


@dataclass(frozen=True, slots=True)
class Heard:
    """Runs of some windows; `until` is the second up to which all have been heard: a checkpoint."""

    runs: tuple[Run, ...]
    until: float


class VoiceModels:
    """Holds the two networks of `core.voices.networks`."""

    def __init__(self, folder: Path):
        """folder: with segmentation.onnx and embedding.onnx."""
        options = onnxruntime.SessionOptions()
        options.intra_op_num_threads = 1
        options.log_severity_level = 3
        self._segmentation, self._embedding = (
            onnxruntime.InferenceSession(str(folder / f"{name}.onnx"), options, providers=["CPUExecutionProvider"])
            for name in ("segmentation", "embedding")
        )
        self._pool = ThreadPoolExecutor(_AT_ONCE, initializer=_behind)

    def listen(self, sound: np.ndarray, speech: Sequence[Span], since: float = 0.0) -> Iterator[Heard]:
        """Runs of the sound, a checkpoint at a time.

        sound: int16, shape (samples,), 16 kHz. speech: where anybody speaks; windows without are passed over. Resuming with `since`
        = the last checkpoint's `until` yields exactly what is missing.
        """
        duration = len(sound) / RATE
        count = max(1, int(np.ceil((duration - _WINDOW) / _STEP)) + 1)
        own = [self._own(index, count, duration) for index in range(count)]
        wanted = [i for i, span in enumerate(own) if span.end > since and any(span.overlaps(one) for one in speech)]
        groups = [wanted[first : first + _TOGETHER] for first in range(0, len(wanted), _TOGETHER)]
        for group, runs in in_order(self._pool, lambda group: self._listened(sound, group, own), groups, _AT_ONCE):
            yield Heard(runs, own[group[-1]].end)

    def _listened(self, sound: np.ndarray, group: Sequence[int], own: Sequence[Span]) -> tuple[Run, ...]:
        """The runs in some windows."""
        windows = np.zeros((len(group), 1, int(_WINDOW * RATE)), np.float32)
        for row, index in enumerate(group):
            piece = _cut(sound, index)
            windows[row, 0, : len(piece)] = as_float(piece)
        classes = self._segmentation.run(None, {"sound": windows})[0].argmax(axis=-1)
        pieces = [run for index, chosen in zip(group, classes, strict=True) for run in _runs(_cut(sound, index), index, own[index], chosen)]
        vectors = self.vectors([frames for _, _, frames in pieces])
        runs = (
            Run(round(span.start, 3), round(span.end, 3), round(clear, 2), vector)
            for (span, clear, _), vector in zip(pieces, vectors, strict=True)
        )
        return tuple(sorted(runs, key=lambda run: run.start))

    @staticmethod
    def _own(index: int, count: int, duration: float) -> Span:
        """The seconds a window decides on."""
        edge = (_WINDOW - _STEP) / 2
        start = index * _STEP
        return Span(start + edge if index else 0.0, start + _WINDOW - edge if index < count - 1 else duration)

    def vectors(self, frames: Sequence[np.ndarray]) -> np.ndarray:
        """Log-mel frames of runs, each of shape (n, 80), n > 0 → vectors of length 1, shape (runs, 192)."""
        pieces = [(owner, piece) for owner, one in enumerate(frames) for piece in _pieces(one)]
        found = np.zeros((len(frames), 192), np.float32)
        for length in _LENGTHS:
            alike = [(owner, piece) for owner, piece in pieces if len(piece) == length]
            for first in range(0, len(alike), _BATCH):
                owners, given = zip(*alike[first : first + _BATCH], strict=True)
                np.add.at(found, list(owners), unit(self._embedding.run(None, {"frames": np.stack(given)})[0]))
        return unit(found)


def _behind() -> None:
    """Let others go first in this thread: telling voices apart fills what hearing words leaves of the processor, at its end above all,
    when one long stretch is left. (On Linux a thread has a priority of its own.)"""
    os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), os.getpriority(os.PRIO_PROCESS, 0) + 10)


def _cut(sound: np.ndarray, index: int) -> np.ndarray:
    first = int(index * _STEP * RATE)
    return np.asarray(sound[first : first + int(_WINDOW * RATE)])


def _pieces(frames: np.ndarray) -> Iterator[np.ndarray]:
    """What the embedding is given of a run, the mean taken off as it was trained: up to 2 s of it, or of a long run its two ends."""
    longest = _LENGTHS[-1]
    length = next((one for one in _LENGTHS if one >= len(frames)), longest)
    for first in (0, len(frames) - length) if len(frames) > 1.5 * longest else (0,):
        piece = frames[(first + np.arange(length)) % len(frames)]
        yield (piece - piece.mean(axis=0)).astype(np.float32)


def _runs(piece: np.ndarray, index: int, own: Span, chosen: np.ndarray) -> Iterator[tuple[Span, float, np.ndarray]]:
    """The runs of a window within the seconds it decides on: when, seconds without overlap, log-mel frames."""
    speaks = _SETS[chosen]
    times = index * _STEP + _FIRST + np.arange(len(chosen)) * _FRAME
    speaks &= ((times >= own.start) & (times < own.end))[:, None]
    alone = speaks.sum(axis=1) == 1
    if not speaks.any() or len(piece) < RATE // 10:
        return
    mel = log_mel(piece)
    nearest = np.clip(np.round((np.arange(len(mel)) / PER_SECOND + 0.0125 - _FIRST) / _FRAME).astype(int), 0, len(chosen) - 1)
    for voice in range(speaks.shape[1]):
        for first, last in _closed(speaks[:, voice]):
            inside = np.zeros(len(chosen), bool)
            inside[first:last] = True
            for heard in _apart(mel, np.flatnonzero(inside[nearest])):
                clean = heard[alone[nearest[heard]]]
                start, end = index * _STEP + heard[0] / PER_SECOND, index * _STEP + (heard[-1] + 2) / PER_SECOND
                yield Span(max(own.start, start), min(own.end, end)), len(clean) / PER_SECOND, mel[clean if len(clean) >= _LEAST else heard]


def _edges(flags: np.ndarray) -> Iterator[tuple[int, int]]:
    """First and one past last of each run of True."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], flags.astype(int), [0]])))
    yield from zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True)


def _closed(flags: np.ndarray) -> Iterator[tuple[int, int]]:
    """The runs of True, with those joined that hardly have a gap between them."""
    run: tuple[int, int] | None = None
    for start, end in _edges(flags):
        if run and start - run[1] > _GAP:
            yield run
            run = None
        run = (run[0] if run else start, end)
    if run:
        yield run


def _apart(mel: np.ndarray, frames: np.ndarray) -> Iterator[np.ndarray]:
    """The frames of a run, cut where it is quiet: the network bridges short pauses, and a pause is where voices change."""
    if not len(frames):
        return
    loud = mel[frames].mean(axis=1)
    quiet = loud < np.percentile(loud, 90) - _QUIET
    start = 0
    for first, last in _edges(quiet):
        if last - first >= _PAUSE:
            if first > start:
                yield frames[start:first]
            start = last
    if len(frames) > start:
        yield frames[start:]


def at_once(runs: Sequence[Run]) -> Iterator[tuple[int, int, Span]]:
    """The pairs of runs that overlap, by their indices, and when. runs: in order of time."""
    for index, run in enumerate(runs):
        for other in range(index + 1, len(runs)):
            if runs[other].start >= run.end:
                break
            yield index, other, run.span & runs[other].span


def unit(vectors: np.ndarray) -> np.ndarray:
    """Vectors (…, n) scaled to length 1, so that their scalar product is the cosine."""
    return vectors / np.maximum(np.linalg.norm(vectors, axis=-1, keepdims=True), 1e-9)


def all_runs(heard: Iterable[Heard]) -> list[Run]:
    """The runs of all checkpoints."""
    return [run for one in heard for run in one.runs]
