"""Log-mel frames as Kaldi computes them, which is what the embedding was trained on."""

from __future__ import annotations

import numpy as np

from core.media.decode import RATE, as_float

PER_SECOND = 100
"""Frames a second."""
_WINDOW, _HOP, _FFT, _MELS = 400, RATE // PER_SECOND, 512, 80
_LOWEST, _PREEMPHASIS = 20.0, 0.97
_FLOOR = np.finfo(np.float32).eps


def _mel(hertz: np.ndarray | float) -> np.ndarray:
    return 1127 * np.log(1 + np.asarray(hertz) / 700)


def _filters() -> np.ndarray:
    """Triangles on the mel scale, shape (80, 257)."""
    edges = np.linspace(_mel(_LOWEST), _mel(RATE / 2), _MELS + 2)
    bins = _mel(np.arange(_FFT // 2) * RATE / _FFT)
    rising = (bins - edges[:-2, None]) / np.diff(edges)[:-1, None]
    falling = (edges[2:, None] - bins) / np.diff(edges)[1:, None]
    return np.pad(np.maximum(0, np.minimum(rising, falling)), ((0, 0), (0, 1))).astype(np.float32)


_FILTERS = _filters()
_POVEY = np.power(0.5 - 0.5 * np.cos(2 * np.pi * np.arange(_WINDOW) / (_WINDOW - 1)), 0.85).astype(np.float32)


def log_mel(samples: np.ndarray) -> np.ndarray:
    """int16 samples, shape (n,), 16 kHz, n of 400 at least → frames, shape (1 + (n - 400) // 160, 80), one each 10 ms.

    Kaldi's `compute-fbank-feats` with 80 bins and without dither, whose window ("povey") is a Hann window to the power of 0.85.
    """
    framed = np.lib.stride_tricks.sliding_window_view(as_float(samples), _WINDOW)[::_HOP]
    framed = framed - framed.mean(axis=1, keepdims=True)
    before = np.concatenate([framed[:, :1], framed[:, :-1]], axis=1)
    power = np.abs(np.fft.rfft((framed - _PREEMPHASIS * before) * _POVEY, _FFT)) ** 2
    return np.log(np.maximum(power.astype(np.float32) @ _FILTERS.T, _FLOOR))
