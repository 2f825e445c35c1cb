"""Where somebody speaks: voice activity, before anything is recognised, since the recogniser invents words on silence."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

import numpy as np
from faster_whisper.vad import VadOptions, get_speech_timestamps

from core.media.decode import RATE, as_float
from core.parallel import in_order
from core.record.timeline import Span, merge

# Sound is looked at in blocks of this many seconds, so that memory does not grow with a recording's length, two of them at once.
_BLOCK, _AT_ONCE = 100, 2
_POOL = ThreadPoolExecutor(_AT_ONCE)
_OPTIONS = VadOptions(threshold=0.45, min_speech_duration_ms=100, min_silence_duration_ms=300, speech_pad_ms=150)


def voice_activity(sound: np.ndarray, progress: Callable[[float], None] = lambda seconds: None) -> list[Span]:
    """Spans with speech, in order, not overlapping. sound: int16, shape (samples,), 16 kHz (Silero VAD, MIT)."""
    found: list[Span] = []
    for start, spans in in_order(_POOL, lambda start: _active(sound, start), range(0, len(sound), _BLOCK * RATE), _AT_ONCE):
        found += spans
        progress(min(start + _BLOCK * RATE, len(sound)) / RATE)
    return merge(found, gap=0.05)


def _active(sound: np.ndarray, start: int) -> list[Span]:
    """The spans with speech in the block that begins at a sample."""
    block = as_float(np.asarray(sound[start : start + _BLOCK * RATE]))
    return [Span((start + one["start"]) / RATE, (start + one["end"]) / RATE) for one in get_speech_timestamps(block, _OPTIONS)]
