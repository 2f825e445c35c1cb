"""Where somebody speaks: voice activity, before anything is recognised, since the recogniser invents words on silence."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from faster_whisper.vad import VadOptions, get_speech_timestamps

from core.media.decode import RATE, as_float
from core.record.timeline import Span, merge

# Sound is looked at in blocks of this many seconds, so that memory does not grow with a recording's length.
_BLOCK = 300
_OPTIONS = VadOptions(threshold=0.45, min_speech_duration_ms=100, min_silence_duration_ms=300, speech_pad_ms=150)


def voice_activity(sound: np.ndarray, progress: Callable[[float], None] = lambda seconds: None) -> list[Span]:
    """Spans with speech, in order, not overlapping. sound: int16, shape (samples,), 16 kHz (Silero VAD, MIT)."""
    found: list[Span] = []
    for start in range(0, len(sound), _BLOCK * RATE):
        block = as_float(np.asarray(sound[start : start + _BLOCK * RATE]))
        found += [Span((start + s["start"]) / RATE, (start + s["end"]) / RATE) for s in get_speech_timestamps(block, _OPTIONS)]
        progress((start + len(block)) / RATE)
    return merge(found, gap=0.05)
