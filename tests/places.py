"""Where captured sound lies in the sound that was fed to a browser's microphone, second by second."""

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


MOST = CAPTURE_RATE // 50
"""Samples by which a stretch may be out of its place altogether."""


def offsets(sound: np.ndarray, whole: np.ndarray) -> list[int]:
    """How far the seconds of a stretch are from their places in `whole`, in samples. On a busy machine the fed
    device itself leaves out a few milliseconds now and then: a second with such a seam is looked at in parts, each in its place.
    """
    found, seamy, quiet = [], [], []
    parts = [(first, sound[first : first + CAPTURE_RATE]) for first in range(0, len(sound) - CAPTURE_RATE, CAPTURE_RATE)]
    while parts:
        first, piece = parts.pop(0)
        if np.abs(piece.astype(int)).mean() < 60:  # a second in which nobody speaks is everywhere
            quiet.append((first, len(piece)))
            continue
        lag, likeness = place(piece, whole)
        half = len(piece) // 2
        if likeness > 0.9:
            found.append(lag - first)
        elif half > CAPTURE_RATE // 10:
            parts[:0] = [(first, piece[:half]), (first + half, piece[half:])]
        else:
            seamy.append((first, piece))
    middle = sorted(found)[len(found) // 2]
    for first, length in quiet:
        assert np.abs(whole[first + middle : first + middle + length]).mean() < 240, (first / CAPTURE_RATE, "silent only here")
    for first, piece in seamy:
        likeness, lags = across_a_seam(piece, whole[first + middle - MOST : first + middle + len(piece) + MOST])
        assert likeness > 0.9, (first / CAPTURE_RATE, likeness)
        found += [middle + lag for lag in lags]
    return found


def across_a_seam(piece: np.ndarray, around: np.ndarray) -> tuple[float, tuple[int, int]]:
    """The best likeness of a short piece to its surroundings where its beginning lies at one lag and its end at another."""
    piece = piece.astype(np.float64)
    near = np.lib.stride_tricks.sliding_window_view(around.astype(np.float64), len(piece))  # a row per lag
    cuts = np.arange(0, len(piece), CAPTURE_RATE // 500)
    alike, energy = (np.pad(np.add.reduceat(rows, cuts, axis=1).cumsum(1), ((0, 0), (1, 0))) for rows in (near * piece, near**2))
    best = (0.0, (0, 0))
    for cut in range(len(cuts)):
        both = alike[:, None, cut] + (alike[:, -1] - alike[:, cut])
        score = both / np.sqrt(np.maximum(energy[:, None, cut] + (energy[:, -1] - energy[:, cut]), 1.0))
        at = np.unravel_index(score.argmax(), score.shape)
        best = max(best, (float(score[at]) / np.sqrt((piece**2).sum()), (int(at[0]) - MOST, int(at[1]) - MOST)))
    return best
