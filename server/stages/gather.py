"""Gather: the seconds that a browser sent, or several files of one meeting, become one lossless file."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import ExitStack, nullcontext
from pathlib import Path

import numpy as np
from django.core.files.storage import default_storage
from django.db import transaction

from core.media import probe
from core.media.chunks import CAPTURE_RATE, placed, read_flac, write_flac
from core.media.join import at_once, in_a_row
from core.media.tracks import TrackLine
from core.problems import InputProblem
from server.capture.models import SLOT, Chunk, Recording, Stretch, media_path
from server.meetings.models import Meeting
from server.pipeline.files import local, put, scratch
from server.pipeline.work import Queue, Report, Stage


def _gather(meeting: Meeting, report: Report) -> tuple[str, str]:
    """The name that the sound is stored under, and the line of its tracks where it is a call's."""
    if meeting.recording.form == Recording.Form.JOINED:
        return _join(meeting.recording, report), ""
    return _gather_capture(meeting, report)


def _join(recording: Recording, report: Report) -> str:
    """Several files of one meeting as one: one behind the other, or all at once. Returns the name it is stored under."""
    parts = list(recording.parts.order_by("position"))
    with scratch(recording.meeting_id) as folder, ExitStack() as files:
        flac = folder / "joined.flac"
        paths = [files.enter_context(local(part.file)) for part in parts]
        for part, path in zip(parts, paths, strict=True):
            try:
                probe(path)
            except InputProblem as problem:
                raise InputProblem(f"{part.name}: {problem}") from problem
        joined = in_a_row(paths) if recording.together == Recording.Together.PARTS else at_once(paths)
        write_flac(flac, _counted((block.reshape(-1, 1) for block in joined), lambda done: report(0.5)), 1)
        return put(media_path(recording, "joined.flac"), flac)


def _gather_capture(meeting: Meeting, report: Report) -> tuple[str, str]:
    """Write the recording anew: what was gathered before, then the stretches since."""
    recording, capture = meeting.recording, meeting.capture
    stretches = list(capture.stretches.order_by("number"))
    tracks = list(dict.fromkeys(track for stretch in stretches for track in stretch.tracks))
    call = bool(tracks) and tracks[0].startswith(SLOT)
    line = TrackLine(CAPTURE_RATE)
    fresh = [stretch for stretch in stretches if not stretch.gathered]
    whole = sum(stretch.samples for stretch in stretches) or 1
    with scratch(meeting.pk) as folder:
        flac = folder / "captured.flac"
        with local(recording.original) if recording.original else nullcontext() as before:
            blocks = _in_one(_blocks(None, fresh, tracks), line) if call else _blocks(before, fresh, tracks)
            samples = write_flac(flac, _counted(blocks, lambda done: report(done / whole)), 1 if call else len(tracks) or 1)
        if samples == 0:
            raise InputProblem("Nothing is left of this capture: nothing was on the record, or all of it was struck.")
        return put(media_path(recording, f"captured-{len(stretches)}.flac"), flac), line.written


def _in_one(blocks: Iterator[np.ndarray], line: TrackLine) -> Iterator[np.ndarray]:
    """All the tracks of a call as one, while it is written down whose is loudest."""
    for block in blocks:
        line.add(block)
        yield np.clip(block.astype(np.int32).sum(axis=1, keepdims=True), -32768, 32767).astype(np.int16)


def _blocks(before: Path | None, stretches: list[Stretch], tracks: list[str]) -> Iterator[np.ndarray]:
    """Blocks of samples, shape (samples, len(tracks))."""
    if before:
        for block in read_flac(before):
            missing = len(tracks) - block.shape[1]
            yield np.pad(block, ((0, 0), (0, missing))) if missing else block
    for stretch in stretches:
        columns = [tracks.index(track) for track in stretch.tracks]
        for data in stretch.received.order_by("number").values_list("data", flat=True).iterator(chunk_size=30):
            yield placed(bytes(data), columns, len(tracks))


def _counted(blocks: Iterator[np.ndarray], done: Report) -> Iterator[np.ndarray]:
    samples = 0
    for block in blocks:
        samples += len(block)
        done(samples)
        yield block


def _keep_gathered(meeting: Meeting, result: tuple[str, str]) -> None:
    (name, line), recording = result, meeting.recording
    before = recording.original.name
    recording.original = name
    recording.size, recording.sha256 = recording.original.size, ""
    recording.save(update_fields=["original", "size", "sha256"])
    if recording.form == Recording.Form.CAPTURED:
        Chunk.objects.filter(stretch__capture=meeting.capture).delete()
        meeting.capture.stretches.update(gathered=True)
        type(meeting.capture).objects.filter(pk=meeting.capture.pk).update(line=line)
    if before and before != name:
        transaction.on_commit(lambda: default_storage.delete(before))


STAGE = Stage(
    "gather",
    "putting the seconds together",
    "flac/1",
    Queue.INTAKE,
    _gather,
    _keep_gathered,
    rate=0.004,
    forms=frozenset({Recording.Form.CAPTURED, Recording.Form.JOINED}),
    makes_record=True,
)
