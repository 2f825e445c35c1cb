"""Assemble: words and voices become turns and lines; a transcript is read as it is."""

from __future__ import annotations

from core.formats import read_record
from core.record.assemble import assemble, with_written
from core.record.model import Record, Word
from core.speech.word_list import WordList
from server.capture.models import LiveLine, Message, Recording
from server.capture.queries import messages_of
from server.meetings.models import Meeting
from server.notify import Part
from server.pipeline.files import local
from server.pipeline.models import HearingCheckpoint, StageRun, VoicesCheckpoint
from server.pipeline.queries import result_of
from server.pipeline.work import Queue, Report, Stage
from server.record.keep import keep_record
from server.words.queries import word_list


def _assemble(meeting: Meeting, report: Report) -> tuple[Record, dict]:
    if meeting.recording.form == Recording.Form.TRANSCRIPT:
        with local(meeting.recording.original) as path:
            return read_record(path), {}
    heard, told = result_of(meeting, "hear"), result_of(meeting, "voices")
    words = WordList(word_list(meeting), heard["language"] or "en").correct([Word.unpacked(word) for word in told["words"]], report)
    turns = assemble(words, heard["language"])
    captured = meeting.recording.form == Recording.Form.CAPTURED
    turns = with_written(turns, messages_of(meeting.capture) if captured else [(at, name, text) for at, name, text in meeting.recording.written])
    return Record(str(meeting.id), turns, meeting.duration, heard["language"] if turns else None), told["voices"]


def _keep_record(meeting: Meeting, result: tuple[Record, dict]) -> None:
    record, embeddings = result
    keep_record(meeting, record, embeddings)
    # From here on the words live in the record alone.
    HearingCheckpoint.objects.filter(meeting=meeting).delete()
    VoicesCheckpoint.objects.filter(meeting=meeting).delete()
    LiveLine.objects.filter(capture__meeting=meeting).delete()
    Message.objects.filter(stretch__capture__meeting=meeting).delete()
    Recording.objects.filter(meeting=meeting).update(written=[])
    StageRun.objects.filter(meeting=meeting, stage="voices").update(result=None)


STAGE = Stage(
    "assemble",
    "putting the record together",
    "1",
    Queue.READING,
    _assemble,
    _keep_record,
    rate=0.004,
    forms=frozenset(Recording.Form),
    new=(Part.RECORD,),
    makes_record=True,
)
