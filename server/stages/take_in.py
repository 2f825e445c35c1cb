"""Take in: what is it, and can it be used?"""

from __future__ import annotations

from core.formats import read_record
from core.media import probe
from core.media.decode import LONGEST, TOO_LONG
from core.problems import InputProblem
from server.capture.models import Recording
from server.meetings.models import Meeting
from server.pipeline.files import hash_file, local
from server.pipeline.work import Queue, Report, Stage


def _take_in(meeting: Meeting, report: Report) -> dict:
    with local(meeting.recording.original) as path:
        sha256 = meeting.recording.sha256 or hash_file(path)
        if meeting.recording.form == Recording.Form.TRANSCRIPT:
            record = read_record(path)
            return {"sha256": sha256, "duration": record.duration, "timed": record.timed}
        facts = probe(path)
    if (facts.duration or 0.0) > LONGEST:
        raise InputProblem(TOO_LONG)
    return {
        "sha256": sha256,
        "container": facts.container,
        "sound": facts.sound,
        "channels": facts.channels,
        "picture": facts.picture,
        "duration": facts.duration,
    }


def _keep_facts(meeting: Meeting, facts: dict) -> None:
    sha256 = facts.pop("sha256")
    Recording.objects.filter(meeting=meeting).update(facts=facts, duration=facts["duration"], sha256=sha256)
    Meeting.objects.filter(pk=meeting.pk).update(duration=facts["duration"] or 0.0)


STAGE = Stage(
    "take_in",
    "looking at the file",
    "pyav/1",
    Queue.INTAKE,
    _take_in,
    _keep_facts,
    rate=0.001,
    forms=frozenset(Recording.Form),
    makes_record=True,
)
