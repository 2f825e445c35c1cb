"""Voices: whose is each word, some windows at a time."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from core.media import RATE, open_sound
from core.record.model import Word
from core.voices import tell_apart
from core.voices.listen import Run
from server.capture.models import SOUNDING, Recording
from server.meetings.models import Meeting
from server.pipeline.ear import ear
from server.pipeline.files import local
from server.pipeline.models import HearingCheckpoint, VoicesCheckpoint
from server.pipeline.queries import result_of
from server.pipeline.work import Queue, Report, Stage
from server.stages.hear import hand_on, speech_of

_ENGINE = "pyannet/cam++/2"


def _tell_voices(meeting: Meeting, report: Report) -> dict:
    heard = result_of(meeting, "hear")
    speech = speech_of(heard)
    words = [Word.unpacked(word) for row in HearingCheckpoint.objects.filter(meeting=meeting).order_by("until") for word in row.words]
    checkpoints = VoicesCheckpoint.objects.filter(meeting=meeting, engine=_ENGINE).order_by("until")
    since = max(checkpoints.values_list("until", flat=True), default=0.0)
    with local(meeting.recording.sound) as wav:
        sound = open_sound(wav)
        for found in ear().voices.listen(sound, speech, since):
            VoicesCheckpoint.objects.update_or_create(
                meeting=meeting,
                until=found.until,
                defaults={"engine": _ENGINE, "runs": [[run.start, run.end, run.clear, _rounded(run.vector)] for run in found.runs]},
            )
            report(0.95 * found.until * RATE / max(1, len(sound)))
    runs = [Run(start, end, clear, np.array(vector)) for row in checkpoints for start, end, clear, vector in row.runs]
    # A device's tracks are a room and a computer, each with any number of voices; those of a call and of files are a participant each.
    slots = _slots(meeting)
    one_each = bool(slots) or meeting.recording.form != Recording.Form.CAPTURED
    told = tell_apart(words, runs, meeting.expected_voices, (result_of(meeting, "decode") or {}).get("tracks", ""), one_each)
    # Whose track it is, the conference has said: no voice of a call is left to be named.
    names = {label: slots[track] for label, track in told.tracks.items() if track in slots}
    return {
        "words": [replace(word, voice=names.get(str(word.voice), word.voice)).packed() for word in told.words],
        "voices": {names.get(label, label): _rounded(vector) for label, vector in told.voices.items()},
    }


def _slots(meeting: Meeting) -> dict[int, str]:
    """Track → who speaks into it: of a call that the clerk took in, or of a recording of which that was told."""
    if meeting.recording.speakers:
        return dict(enumerate(meeting.recording.speakers))
    if meeting.recording.form != Recording.Form.CAPTURED:
        return {}
    return {one.slot: one.called for one in meeting.capture.participants.select_related("person") if one.slot is not None}


def _rounded(vector: np.ndarray) -> list[float]:
    return [round(float(value), 4) for value in vector]


STAGE = Stage(
    "voices",
    "telling the voices apart",
    _ENGINE,
    Queue.HEARING,
    _tell_voices,
    hand_on,
    rate=0.03,
    forms=SOUNDING,
    makes_record=True,
)
