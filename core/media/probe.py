"""What a media file holds."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

import av
from av.error import FFmpegError

from core.problems import InputProblem


@dataclass(frozen=True, slots=True)
class MediaFacts:
    """Container and codecs by FFmpeg's names; duration in seconds, None where the file does not say."""

    container: str
    duration: float | None
    sound: str | None
    channels: int
    picture: str | None
    recorded_at: datetime | None


_FORMATS = (
    "mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,ogg,wav,w64,flac,mp3,mp2,aac,ac3,eac3,aiff,asf,avi,amr,amrnb,amrwb,mpeg,mpegts,mpegvideo,caf,au,"
    "flv,rm,voc,tta,ape,wv,mpc,mpc8,mxf,dv,gsm,sln,loas,oma,sox,spdif,mpegvideo,m4v,h264,nut"
)
"""Containers by FFmpeg's names. Others, playlists above all, name further files, which FFmpeg would open."""


def open_media(path: Path) -> av.container.InputContainer:
    """Open a file for reading. Raises InputProblem when it is empty or no sound or picture file."""
    if path.stat().st_size == 0:
        raise InputProblem("The file is empty. Check where it came from and give it again.")
    try:
        options = {"format_whitelist": _FORMATS, "protocol_whitelist": "file"}
        return av.open(str(path), metadata_errors="ignore", options=options)
    except (FFmpegError, ValueError) as error:
        raise InputProblem(
            "This is not a sound or video file that can be opened. Give a recording such as MP3, M4A, WAV, FLAC, Opus, MP4 or WebM."
        ) from error


def probe(path: Path) -> MediaFacts:
    """The facts of a media file, by its contents and not by its name.

    Raises InputProblem when it is empty, not a media file, or has no sound.
    """
    with open_media(path) as container:
        sound = next(iter(container.streams.audio), None)
        # A cover picture in a music file is no video.
        picture = next((s for s in container.streams.video if not s.disposition & av.stream.Disposition.attached_pic), None)
        if sound is None:
            what = "This video has no sound" if picture else "This file has no sound"
            raise InputProblem(f"{what}, so there is nothing to hear. Give the recording that has the sound.")
        duration = container.duration / av.time_base if container.duration else None
        return MediaFacts(
            container.format.name,
            duration,
            sound.codec_context.name,
            sound.codec_context.channels or 1,
            picture.codec_context.name if picture else None,
            _recorded_at(container.metadata),
        )


def _recorded_at(metadata: dict[str, str]) -> datetime | None:
    stated = metadata.get("creation_time")
    try:
        moment = datetime.fromisoformat(stated) if stated else None
    except ValueError:
        return None
    # Cameras whose clock was never set write the epoch of their format.
    return moment.astimezone(UTC) if moment and moment.year > 1980 else None
