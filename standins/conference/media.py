"""Sound and screens: who gives them, and their way to everybody who takes them."""

from __future__ import annotations

import asyncio
import contextlib
import time
from collections.abc import Sequence
from fractions import Fraction
from pathlib import Path

import av
from aiortc import MediaStreamTrack
from aiortc.mediastreams import MediaStreamError
from av.frame import Frame
from av.packet import Packet
from PIL import Image

RATE = 48_000
PACKET = 960
"""Samples of a packet of Opus: 20 ms, the length that browsers send (common practice)."""
_BEHIND = 100  # packets that a taker may be behind before it misses some


class Taken(MediaStreamTrack):
    """What somebody takes of a source."""

    def __init__(self, source: Source) -> None:
        super().__init__()
        self.kind = source.kind
        self._source = source
        self.queue: asyncio.Queue[Frame | Packet | None] = asyncio.Queue(_BEHIND)

    async def recv(self) -> Frame | Packet:
        """The next piece."""
        piece = await self.queue.get()
        if piece is None:
            self.stop()
            raise MediaStreamError
        return piece

    def stop(self) -> None:
        """No more of it."""
        super().stop()
        self._source.takers.discard(self)


class Source:
    """Somebody's sound, or their screen: each piece goes to all who take it just now."""

    def __init__(self, kind: str) -> None:
        """kind: "audio" or "video". seconds: how far it has come, where it is a file's."""
        self.kind = kind
        self.seconds = 0.0
        self.takers: set[Taken] = set()
        self.muted = False

    def take(self) -> Taken:
        """A way to it."""
        taken = Taken(self)
        self.takers.add(taken)
        return taken

    def give(self, piece: Frame | Packet) -> None:
        """Hand a piece on."""
        if self.muted:
            return
        for number, taker in enumerate(self.takers):
            if taker.queue.full():
                taker.queue.get_nowait()
            # Each encodes on a thread of its own, and encoding changes a frame: two at the same one would end the process.
            taker.queue.put_nowait(piece if number == 0 or isinstance(piece, Packet) else _copied(piece))

    def end(self) -> None:
        """It is over."""
        for taker in list(self.takers):
            with contextlib.suppress(asyncio.QueueFull):
                taker.queue.put_nowait(None)

    async def follow(self, track: MediaStreamTrack) -> None:
        """Hand on what comes by a track, until it ends."""
        try:
            while True:
                self.give(await track.recv())
        except MediaStreamError:
            self.end()


def _copied(frame: Frame) -> Frame:
    """The same sound or picture, as a frame of its own."""
    if isinstance(frame, av.VideoFrame):
        copy = av.VideoFrame.from_ndarray(frame.to_ndarray(), format=frame.format.name)
    else:
        assert isinstance(frame, av.AudioFrame)
        copy = av.AudioFrame.from_ndarray(frame.to_ndarray(), format=frame.format.name, layout=frame.layout.name)
        copy.sample_rate = frame.sample_rate
    copy.pts, copy.time_base = frame.pts, frame.time_base
    return copy


def opus_of(path: Path) -> list[bytes]:
    """A file's sound as packets of Opus, 20 ms each, one channel."""
    encoder = av.CodecContext.create("libopus", "w")
    encoder.sample_rate, encoder.layout, encoder.format, encoder.bit_rate = RATE, "mono", "s16", 40_000
    encoder.options = {"application": "voip", "compression_level": "2"}
    resampler = av.AudioResampler(format="s16", layout="mono", rate=RATE, frame_size=PACKET)
    packets: list[bytes] = []
    with av.open(str(path)) as container:
        for frame in container.decode(audio=0):
            for block in resampler.resample(frame):
                packets += [bytes(packet) for packet in encoder.encode(block)]
        for block in resampler.resample(None):
            packets += [bytes(packet) for packet in encoder.encode(block)]
    return packets


async def speak(source: Source, packets: Sequence[bytes], again: bool = False) -> None:
    """Give packets of Opus in real time. again: from the beginning whenever they end."""
    start, number = time.monotonic(), 0
    while packets:
        for data in packets:
            source.seconds = number * PACKET / RATE
            piece = Packet(data)
            piece.pts, piece.time_base = number * PACKET, Fraction(1, RATE)
            source.give(piece)
            number += 1
            await asyncio.sleep(max(0.0, start + number * PACKET / RATE - time.monotonic()))
        if not again:
            return


async def show(source: Source, pictures: Sequence[Path], seconds: float) -> None:
    """Give pictures as a screen would, two frames a second, each for so long."""
    start, number = time.monotonic(), 0
    for path in pictures:
        image = Image.open(path).convert("RGB").resize((1280, 720))
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            frame = av.VideoFrame.from_image(image)
            frame.pts, frame.time_base = int((time.monotonic() - start) * 90_000), Fraction(1, 90_000)
            source.give(frame)
            number += 1
            await asyncio.sleep(0.5)
