"""A voice as a vector of 256 values: d-vectors (Wan et al. 2018, Generalized End-to-End Loss) from an ONNX model."""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path

import numpy as np
import onnxruntime

from core.media.decode import RATE, as_float
from core.record.timeline import Span

# The model's own parameters, as its metadata state them.
_FFT, _WINDOW, _HOP, _MELS, _FLOOR = 512, 400, 160, 40, 1e-6
_FRAMES, _STRIDE = 80, 40
_BATCH = 128


def _mel_filters() -> np.ndarray:
    """Slaney's mel filter bank, shape (40, 257): linear to 1 kHz, logarithmic above, each of unit area."""

    def to_hz(mel: np.ndarray) -> np.ndarray:
        return np.where(mel < 15, mel * 200 / 3, 1000 * np.exp((mel - 15) * np.log(6.4) / 27))

    top = 15 + 27 * np.log(RATE / 2 / 1000) / np.log(6.4)
    edges = to_hz(np.linspace(0, top, _MELS + 2))
    bins = np.linspace(0, RATE / 2, _FFT // 2 + 1)
    rising = (bins - edges[:-2, None]) / (edges[1:-1] - edges[:-2])[:, None]
    falling = (edges[2:, None] - bins) / (edges[2:] - edges[1:-1])[:, None]
    return np.maximum(0, np.minimum(rising, falling)) * (2 / (edges[2:] - edges[:-2]))[:, None]


_FILTERS = _mel_filters().astype(np.float32)
_HANN = np.hanning(_WINDOW + 1)[:-1].astype(np.float32)


def log_mel(samples: np.ndarray) -> np.ndarray:
    """int16 samples, shape (n,), 16 kHz → log-mel frames, shape (1 + n // 160, 40), one each 10 ms."""
    # The window of 400 sits in the middle of the 512 of the transform, centred on its frame's time.
    padded = np.pad(as_float(samples), _FFT // 2)
    starts = np.arange(0, len(padded) - _FFT + 1, _HOP)
    side = (_FFT - _WINDOW) // 2
    framed = padded[starts[:, None] + np.arange(side, side + _WINDOW)[None, :]] * _HANN
    power = np.abs(np.fft.rfft(framed, _FFT)) ** 2
    return np.log(np.maximum(power @ _FILTERS.T, _FLOOR)).astype(np.float32)


class VoiceEmbedding:
    """Holds the model. Vectors have length 1, so that their scalar product is the cosine."""

    def __init__(self, model: Path, threads: int | None = None):
        """model: the ONNX file. threads: of the processor; by default all there are."""
        options = onnxruntime.SessionOptions()
        options.intra_op_num_threads = threads or os.cpu_count() or 1
        options.log_severity_level = 3
        self._session = onnxruntime.InferenceSession(str(model), options, providers=["CPUExecutionProvider"])

    def windows(self, sound: np.ndarray, spans: Sequence[Span]) -> tuple[np.ndarray, np.ndarray]:
        """Vectors of windows of 0.8 s, one each 0.4 s, inside the spans.

        sound: int16, shape (samples,), 16 kHz. Returns (centres in seconds, shape (n,); vectors, shape (n, 256)).
        A span shorter than a window gives one, repeated to length.
        """
        centres: list[float] = []
        frames: list[np.ndarray] = []
        for span in spans:
            mel = log_mel(np.asarray(sound[int(span.start * RATE) : int(span.end * RATE)]))
            if len(mel) < _FRAMES:
                centres.append((span.start + span.end) / 2)
                frames.append(mel[np.arange(_FRAMES) % len(mel)])
                continue
            for first in range(0, len(mel) - _FRAMES + 1, _STRIDE):
                centres.append(span.start + (first + _FRAMES / 2) * _HOP / RATE)
                frames.append(mel[first : first + _FRAMES])
        vectors = [self._session.run(None, {"mel_window": np.stack(frames[i : i + _BATCH])})[0] for i in range(0, len(frames), _BATCH)]
        if not vectors:
            return np.zeros(0), np.zeros((0, 256), np.float32)
        return np.array(centres), unit(np.concatenate(vectors))


def unit(vectors: np.ndarray) -> np.ndarray:
    """Vectors (…, n) scaled to length 1."""
    return vectors / np.maximum(np.linalg.norm(vectors, axis=-1, keepdims=True), 1e-9)
