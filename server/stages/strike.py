"""After a strike: a meeting's files are written anew without what was struck. Until that is done nothing of them is given out."""

from __future__ import annotations

from pathlib import Path

from django.core.files.storage import default_storage

from core.formats import webvtt_record
from core.media import listening_copy, open_sound, peaks, probe
from core.media.chunks import CAPTURE_RATE
from core.media.join import in_a_row
from core.media.silence import silence_wav, silenced
from core.record.timeline import Span, merge
from server.capture.beside import names_kept
from server.capture.models import Recording, media_path
from server.meetings.models import Meeting
from server.pipeline.files import local, put, scratch, sweep
from server.pipeline.work import Change, Queue, Report, Stage
from server.record.keep import load_record


def _rewrite(meeting: Meeting, report: Report) -> None:
    """Write every file of a meeting anew without what was struck, and let go of all that nothing refers to any more. It may be cut off anywhere.

    report: told how much is done, 0 to 1.
    """
    recording = meeting.recording
    spans = merge(Span(*span) for strike in meeting.strikes.all() for span in strike.spans)
    with scratch(meeting.pk) as folder:
        if recording.form == Recording.Form.TRANSCRIPT:
            fresh = {"original": _transcript_anew(meeting, folder)}
        elif not recording.original:
            fresh = {}
        else:
            fresh = _media_anew(recording, spans, folder, report)
        # New files first, then what refers to them, then the old ones: a worker may be killed between any two of these.
        for field, path in fresh.items():
            setattr(recording, field, put(media_path(recording, path.name), path))
        if recording.original:
            recording.size, recording.sha256 = recording.original.size, ""
        recording.save()
        if recording.form != Recording.Form.TRANSCRIPT:
            _parts_anew(recording, spans, folder)
        sweep(default_storage, meeting.pk, names_kept(meeting), folder)


def _transcript_anew(meeting: Meeting, folder: Path) -> Path:
    """The record as it stands takes the place of the transcript that was given."""
    path = folder / "transcript.vtt"
    path.write_text(webvtt_record.dump(load_record(meeting)), encoding="utf-8")
    meeting.recording.name = f"{Path(meeting.recording.name).stem}.vtt"
    return path


def _media_anew(recording: Recording, spans: list[Span], folder: Path, report: Report) -> dict[str, Path]:
    whole = max(recording.duration or 0.0, 1.0)
    with local(recording.original) as path:
        original = silenced(path, folder / "struck", spans, lambda seconds: report(0.6 * seconds / whole))
    fresh = {"original": original}
    if recording.sound:
        wav, webm = folder / "sound.wav", folder / "listening.webm"
        with local(recording.sound) as path:
            silence_wav(path, wav, spans)
        listening_copy(original, webm, lambda seconds: report(0.6 + 0.3 * seconds / whole))
        recording.peaks = peaks(open_sound(wav))
        fresh |= {"sound": wav, "listening": webm}
    facts = probe(original)
    recording.facts = {**recording.facts, "container": facts.container, "sound": facts.sound, "picture": facts.picture}
    recording.name = f"{Path(recording.name).stem}{original.suffix}"
    return fresh


def _parts_anew(recording: Recording, spans: list[Span], folder: Path) -> None:
    """The files a recording was put together from, each without its share."""
    at = 0.0
    for part in recording.parts.order_by("position"):
        with local(part.file) as path:
            length = sum(len(block) for block in in_a_row([path])) / CAPTURE_RATE
            own = [Span(max(0.0, span.start - at), span.end - at) for span in spans if span.end > at and span.start < at + length]
            fresh = silenced(path, folder / f"part-{part.position}", own) if own else None
        if fresh:
            part.file = put(media_path(recording, fresh.name), fresh)
            part.name, part.size = f"{Path(part.name).stem}{fresh.suffix}", part.file.size
            part.save()
        at += length if recording.together == Recording.Together.PARTS else 0.0


def _keep_rewritten(meeting: Meeting, result: None) -> None:
    """Nothing that was struck is in the files any more: they are given out again."""
    Recording.objects.filter(meeting=meeting).update(withheld=False)


STAGE = Stage(
    "strike",
    "writing the files anew without what was struck",
    "pyav/1",
    Queue.INTAKE,
    _rewrite,
    _keep_rewritten,
    rate=0.05,
    forms=frozenset(Recording.Form),
    again=frozenset({Change.STRIKE}),
    applies=lambda recording: recording.withheld,
)
