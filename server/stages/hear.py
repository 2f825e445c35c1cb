"""Hear: words, a checkpoint at a time."""

from __future__ import annotations

from core.media import RATE, open_sound
from core.record.timeline import Span
from core.speech import voice_activity
from core.speech.hear import Spoken, main_language
from server.capture.models import SOUNDING
from server.meetings.models import Meeting
from server.pipeline.ear import ear
from server.pipeline.files import local
from server.pipeline.models import HearingCheckpoint, StageRun
from server.pipeline.work import Queue, Report, Stage
from server.words.queries import expected

HEARING_ENGINE = "whisper-base-int8/silero/5"
# Shares of the work (measured) up to where it is known where somebody speaks, and, of two languages, in which.
_FOUND, _TOLD = 0.03, 0.35


def _hear(meeting: Meeting, report: Report) -> dict:
    with local(meeting.recording.sound) as wav:
        sound = open_sound(wav)
        run = StageRun.objects.get(meeting=meeting, stage="hear")
        if run.result is None:
            speech = voice_activity(sound, lambda seconds: report(_FOUND * seconds * RATE / len(sound)))
            chosen = meeting.language.split("+") if meeting.language else ()
            spoken = ear().recogniser.spoken(sound, speech, chosen, lambda share: report(_FOUND + (_TOLD - _FOUND) * share))
            run.result = {
                "speech": [[one.span.start, one.span.end, one.language] for one in spoken],
                "language": main_language(spoken),
            }
            run.save(update_fields=["result"])
        spoken = [Spoken(Span(start, end), language) for start, end, language in run.result["speech"]]
        speech = [one.span for one in spoken]
        seconds = sum(span.duration for span in speech) or 1.0
        begun = _TOLD if len({one.language for one in spoken}) > 1 else _FOUND
        checkpoints = HearingCheckpoint.objects.filter(meeting=meeting, engine=HEARING_ENGINE)
        since = max(checkpoints.values_list("until", flat=True), default=0.0)
        for passage in ear().recogniser.passages(sound, spoken, since, expected(meeting)):
            HearingCheckpoint.objects.update_or_create(
                meeting=meeting,
                until=passage.until,
                defaults={"engine": HEARING_ENGINE, "words": [word.packed() for word in passage.words]},
            )
            report(begun + (1 - begun) * sum((span & Span(0, passage.until)).duration for span in speech) / seconds)
    return run.result


def speech_of(result: dict) -> list[Span]:
    """Where somebody speaks, of what hearing handed on."""
    return [Span(start, end) for start, end, *_ in result["speech"]]


def hand_on(meeting: Meeting, result: dict) -> dict:
    """The result is only for the stages that follow."""
    return result


STAGE = Stage(
    "hear",
    "hearing the words",
    HEARING_ENGINE,
    Queue.HEARING,
    _hear,
    hand_on,
    rate=0.1,
    forms=SOUNDING,
    makes_record=True,
)
