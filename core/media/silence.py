"""Media written anew with stretches taken out: silence of the same length in the sound, black in the picture, so that times stay true."""

from __future__ import annotations

import shutil
from collections.abc import Callable, Sequence
from fractions import Fraction
from pathlib import Path
from typing import cast

import av
import numpy as np

from core.media.coding import Track
from core.media.decode import RATE, decoded, open_sound_to_change
from core.media.probe import open_media, probe
from core.record.timeline import Span

_LOSSLESS = ("pcm_", "flac", "alac", "wavpack", "tta", "ape")
_FRAMES = Fraction(1, 90_000)  # seconds of a step in the picture's times, as broadcast uses


def silence_wav(wav: Path, target: Path, spans: Sequence[Span]) -> None:
    """Copy a sound that `decode` wrote, its samples within the spans zero."""
    shutil.copyfile(wav, target)
    sound = open_sound_to_change(target)
    for span in spans:
        sound[max(0, int(span.start * RATE)) : int(np.ceil(min(span.end, len(sound) / RATE) * RATE))] = 0
    sound.flush()


def silenced(path: Path, target: Path, spans: Sequence[Span], progress: Callable[[float], None] = lambda seconds: None) -> Path:
    """Write a recording anew with the spans (seconds of its sound) silent and black; returns `target` with the suffix of its form.

    Every sound stream and the picture are kept; covers, subtitles, chapters and tags, which could say what was said, are not. Lossless
    sound becomes FLAC, other sound Opus, video H.264 with AAC in MP4. Raises InputProblem as `probe` does. Memory does not grow with
    length.
    """
    facts = probe(path)
    lossless = (facts.sound or "").startswith(_LOSSLESS)
    form, suffix = ("mp4", ".mp4") if facts.picture else ("flac", ".flac") if lossless else ("ogg", ".opus")
    target = target.with_suffix(suffix)
    with open_media(path) as source, av.open(str(target), "w", format=form) as sink:
        sounds = list(source.streams.audio) if facts.picture else [source.streams.audio[0]]
        tracks = {stream.index: Track(sink, stream, "aac" if facts.picture else "flac" if lossless else "libopus") for stream in sounds}
        video = next((s for s in source.streams.video if not s.disposition & av.stream.Disposition.attached_pic), None)
        picture = _Picture(sink, video) if video is not None and facts.picture else None
        wanted: list[av.AudioStream | av.VideoStream] = [*sounds, *([video] if picture and video else [])]
        for stream in wanted:
            stream.codec_context.thread_type = "AUTO"
        for index, frame in decoded(source, wanted):
            if index in tracks:
                progress(tracks[index].take(cast(av.AudioFrame, frame), spans))
                if picture and picture.begin is None and index == sounds[0].index:
                    picture.begin = frame.time or 0.0
            elif picture:
                picture.take(cast(av.VideoFrame, frame), spans)
        for track in tracks.values():
            track.end()
        if picture:
            picture.end()
    return target


class _Picture:
    """The picture on its way through; its times are counted from the beginning of the sound, as a record's are."""

    def __init__(self, sink: av.container.OutputContainer, source: av.VideoStream) -> None:
        self.stream = sink.add_stream("libx264", rate=source.average_rate or 25, options={"preset": "veryfast", "crf": "21"})
        # H.264 halves the colour's rows and columns, so that a side is even.
        self.stream.width, self.stream.height = source.codec_context.width // 2 * 2, source.codec_context.height // 2 * 2
        self.stream.pix_fmt = "yuv420p"
        self.stream.codec_context.time_base = _FRAMES
        self.sink, self.last = sink, -1
        self.black = _black(self.stream.width, self.stream.height)
        self.begin: float | None = None

    def take(self, frame: av.VideoFrame, spans: Sequence[Span]) -> None:
        """Code a frame, black where it is struck. Frames from before the sound begins count as shown at its beginning."""
        at = max(0.0, (frame.time or 0.0) - (self.begin or 0.0))
        made = frame.reformat(width=self.stream.width, height=self.stream.height, format="yuv420p")
        # A frame is shown until the next one, which may lie within the span: half a second of margin covers slow pictures too.
        if any(span.start - 0.5 <= at < span.end for span in spans):
            made = av.VideoFrame.from_ndarray(self.black, format="yuv420p")
        self.last = max(self.last + 1, int(at / _FRAMES))
        made.pts, made.time_base = self.last, _FRAMES
        self.sink.mux(self.stream.encode(made))

    def end(self) -> None:
        """Code what is held back."""
        self.sink.mux(self.stream.encode(None))


def _black(width: int, height: int) -> np.ndarray:
    """A black picture, yuv420p: luma 16, both colours 128 (ITU-R BT.601, limited range)."""
    planes = np.full((height * 3 // 2, width), 128, np.uint8)
    planes[:height] = 16
    return planes
