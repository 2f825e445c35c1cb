"""Sound on its way from one file into another."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from typing import cast

import av
from av.error import FFmpegError

from core.record.timeline import Span

_LOSSLESS = ("flac", "pcm_s16le")
_OPUS_RATE = 48_000
_MP3_RATES = (16_000, 22_050, 24_000, 32_000, 44_100, 48_000)  # ISO/IEC 11172-3 and 13818-3
_BITS_A_CHANNEL = 96_000  # well above where Opus is transparent for speech, since the original was coded once already


def _mp3_rate(rate: int) -> int:
    return next((known for known in _MP3_RATES if known >= rate), _MP3_RATES[-1])


class Track:
    """A sound stream on its way from one file into another: decoded, made silent or left out where it must be, coded again."""

    def __init__(self, sink: av.container.OutputContainer, source: av.AudioStream, codec: str) -> None:
        context = source.codec_context
        self.rate = _OPUS_RATE if codec == "libopus" else _mp3_rate(context.sample_rate) if codec == "libmp3lame" else context.sample_rate
        channels = min(context.channels or 1, 8 if codec in _LOSSLESS else 2)
        self.layout = {1: "mono", 2: "stereo"}.get(channels, context.layout.name)
        self.stream = cast(av.AudioStream, sink.add_stream(codec, rate=self.rate, layout=self.layout))
        if codec not in _LOSSLESS:
            self.stream.bit_rate = _BITS_A_CHANNEL * channels
        deep = codec == "flac" and context.format.bytes > 2
        self.form = {"flac": "s32" if deep else "s16", "pcm_s16le": "s16", "libopus": "flt", "aac": "fltp", "libmp3lame": "fltp"}[codec]
        self.stream.codec_context.format = self.form
        self.resampler = av.AudioResampler(format=self.form, layout=self.layout, rate=self.rate)
        self.sink, self.samples = sink, 0
        self.channels = channels

    def take(self, frame: av.AudioFrame | None, spans: Sequence[Span]) -> float:
        """Code a frame; returns the seconds reached. None: what the resampler still holds."""
        try:
            blocks = self.resampler.resample(frame)
        except (FFmpegError, ValueError):  # sound whose rate or layout changes in the middle: that frame is left out, as in `decode`
            return self.samples / self.rate
        for block in blocks:
            sound = block.to_ndarray()
            planar = block.format.is_planar
            plain = sound if planar else sound.reshape(-1, self.channels).T
            for span in spans:
                first, end = (round(seconds * self.rate) - self.samples for seconds in (span.start, min(span.end, 1e9)))
                if end > 0 and first < plain.shape[1]:
                    plain[:, max(0, first) : end] = 0
            made = av.AudioFrame.from_ndarray(sound, format=self.form, layout=self.layout)
            made.sample_rate, made.pts, made.time_base = self.rate, self.samples, Fraction(1, self.rate)
            self.samples += plain.shape[1]
            self.sink.mux(self.stream.encode(made))
        return self.samples / self.rate

    def end(self) -> None:
        """Code what is held back."""
        self.take(None, ())
        self.sink.mux(self.stream.encode(None))
