"""Decode: sound for the recogniser, and a copy that any browser plays."""

from __future__ import annotations

from contextlib import ExitStack
from pathlib import Path

from core.media import decode, listening_copy, open_sound, peaks
from core.media.tracks import line_of_tracks
from server.capture.models import SOUNDING, Recording
from server.meetings.models import Meeting
from server.pipeline.files import local, scratch, store
from server.pipeline.work import Queue, Report, Stage


def _decode(meeting: Meeting, report: Report) -> dict:
    recording = meeting.recording
    whole = max(recording.duration or 0.0, 1.0)
    with local(recording.original) as path, scratch(meeting.pk) as folder:
        wav, webm = folder / "sound.wav", folder / "listening.webm"
        duration = decode(path, wav, lambda seconds: report(min(0.5, seconds / whole / 2)))
        listening_copy(path, webm, lambda seconds: report(min(0.99, 0.5 + seconds / max(duration, 1.0) / 2)))
        recording.peaks = peaks(open_sound(wav))
        store(recording.sound, "sound.wav", wav)
        store(recording.listening, "listening.webm", webm)
        tracks = _tracks(recording, path)
    recording.duration = duration
    recording.save(update_fields=["sound", "listening", "duration", "peaks"])
    return {"duration": duration, "tracks": tracks}


def _tracks(recording: Recording, path: Path) -> str:
    """Which track is spoken into, where there are separate ones: several files at once, a call's, or the channels of one."""
    if recording.together == Recording.Together.TRACKS:
        with ExitStack() as files:
            return line_of_tracks([files.enter_context(local(part.file)) for part in recording.parts.order_by("position")])
    if recording.form == Recording.Form.CAPTURED and recording.meeting.capture.line:
        return recording.meeting.capture.line
    return line_of_tracks([path], recording.facts.get("channels", 1))


def _keep_duration(meeting: Meeting, result: dict) -> dict:
    Meeting.objects.filter(pk=meeting.pk).update(duration=result["duration"])
    return result


STAGE = Stage(
    "decode",
    "decoding the sound",
    "pyav/1",
    Queue.INTAKE,
    _decode,
    _keep_duration,
    rate=0.02,
    forms=SOUNDING,
    makes_record=True,
)
