"""Where captured sound lies in the sound that a browser was given, second by second."""

from __future__ import annotations

import numpy as np
from scipy.signal import correlate

from core.media.chunks import CAPTURE_RATE


def place(piece: np.ndarray, whole: np.ndarray) -> tuple[int, float]:
    """Where in `whole` a piece lies, in samples, and the normalised correlation there (1: the same but for loudness)."""
    piece, whole = piece.astype(np.float64), whole.astype(np.float64)
    found = correlate(whole, piece, "valid", "fft")
    summed = np.concatenate([[0.0], np.cumsum(whole**2)])
    energy = np.sqrt(summed[len(piece) :] - summed[: -len(piece)])
    score = found / (np.maximum(energy, 1.0) * np.sqrt((piece**2).sum()))
    return int(score.argmax()), float(score.max())


def offsets(sound: np.ndarray, whole: np.ndarray) -> list[int]:
    """How far the seconds of a stretch are from their places in `whole`, in samples; a second in which nobody speaks is everywhere."""
    found = []
    for first in range(0, len(sound) - CAPTURE_RATE + 1, CAPTURE_RATE):
        piece = sound[first : first + CAPTURE_RATE]
        if np.abs(piece.astype(int)).mean() < 60:
            continue
        at, likeness = place(piece, whole)
        assert likeness > 0.9, (first / CAPTURE_RATE, likeness)
        found.append(at - first)
    return found
