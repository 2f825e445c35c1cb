"""Small media for tests."""

from __future__ import annotations

import wave
from pathlib import Path

import av
import numpy as np

RATE = 16_000


def write_wav(path: Path, samples: np.ndarray, rate: int = RATE) -> Path:
    """int16 samples, shape (n,) or (n, channels), as WAV."""
    with wave.open(str(path), "wb") as sink:
        sink.setnchannels(1 if samples.ndim == 1 else samples.shape[1])
        sink.setsampwidth(2)
        sink.setframerate(rate)
        sink.writeframes(np.ascontiguousarray(samples).astype("<i2").tobytes())
    return path


def tone(seconds: float, hertz: float = 440.0, level: float = 0.3) -> np.ndarray:
    """A sine, int16."""
    return (np.sin(2 * np.pi * hertz * np.arange(int(seconds * RATE)) / RATE) * level * 32767).astype(np.int16)


def noise(seconds: float, level: float = 0.05) -> np.ndarray:
    """White noise, the same each time, int16."""
    return (np.random.default_rng(3).normal(0, level, int(seconds * RATE)).clip(-1, 1) * 32767).astype(np.int16)


def applause(seconds: float, level: float = 0.1) -> np.ndarray:
    """A hall of people clapping, int16: some forty claps a second, each a burst of noise that dies away; they swell and ebb by the minute."""
    chance, length = np.random.default_rng(4), int(0.03 * RATE)
    claps = chance.normal(0, 1, (64, length)) * np.exp(-np.arange(length) / (0.006 * RATE))
    sound = np.zeros(int(seconds * RATE))
    for at in chance.integers(0, len(sound) - length, int(40 * seconds)):
        sound[at : at + length] += claps[chance.integers(64)] * chance.uniform(0.2, 2) * level
    swell = 0.6 - 0.4 * np.cos(2 * np.pi * np.arange(len(sound)) / RATE / 60)
    return ((sound * swell).clip(-1, 1) * 32767).astype(np.int16)


def write_video(path: Path, *, sound: np.ndarray | None) -> Path:
    """One second of grey picture as MP4, with sound where some is given."""
    with av.open(str(path), "w") as container:
        picture = container.add_stream("mpeg4", rate=10)
        picture.width, picture.height, picture.pix_fmt = 64, 48, "yuv420p"
        heard = container.add_stream("aac", rate=RATE, layout="mono") if sound is not None else None
        for _ in range(10):
            container.mux(picture.encode(av.VideoFrame.from_ndarray(np.full((48, 64, 3), 90, np.uint8), format="rgb24")))
        container.mux(picture.encode(None))
        if heard:
            frame = av.AudioFrame.from_ndarray(sound.reshape(1, -1), format="s16", layout="mono")
            frame.sample_rate = RATE
            resampler = av.AudioResampler(format="fltp", layout="mono", rate=RATE, frame_size=1024)
            for part in [*resampler.resample(frame), *resampler.resample(None)]:
                container.mux(heard.encode(part))
            container.mux(heard.encode(None))
    return path
