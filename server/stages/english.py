"""English beside what was said in other languages."""

from __future__ import annotations

from core.media import open_sound
from core.record.timeline import Span
from server.capture.models import SOUNDING
from server.meetings.models import Meeting
from server.pipeline.ear import ear
from server.pipeline.files import local
from server.pipeline.work import Change, Queue, Report, Stage
from server.record.models import Turn
from server.stages.hear import HEARING_ENGINE


def _put_in_english(meeting: Meeting, report: Report) -> dict[int, str]:
    """English of turns by their number: of those in another language that are without."""
    turns = list(Turn.objects.filter(meeting=meeting, english="").exclude(language__in=["en", ""]).order_by("number"))
    if not turns or not meeting.recording.sound:
        return {}
    with local(meeting.recording.sound) as wav:
        sound = open_sound(wav)
        texts = {}
        for done, turn in enumerate(turns, start=1):
            texts[turn.number] = ear().recogniser.english(sound, Span(max(0.0, turn.start - 0.2), turn.end + 0.2), turn.language)
            report(done / len(turns))
    return texts


def _keep_english(meeting: Meeting, texts: dict[int, str]) -> None:
    for number, text in texts.items():
        Turn.objects.filter(meeting=meeting, number=number).update(english=text)


STAGE = Stage(
    "english",
    "putting it into English",
    HEARING_ENGINE,
    Queue.HEARING,
    _put_in_english,
    _keep_english,
    rate=0.001,
    forms=SOUNDING,
    again=frozenset({Change.STRIKE}),
)
