"""The stages of the work on a meeting, in order. Each calls core, returns what it found, and keeps it in `keep`.

A stage is three things: the version of its engine, `work` (long, outside any transaction, may be cut off at any moment) and
`keep` (short, inside the transaction that also marks the stage done and queues the next). What `keep` returns is handed on
to later stages.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import ExitStack, nullcontext
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

import numpy as np
from django.conf import settings
from django.core.files.storage import default_storage
from django.core.mail import send_mail
from django.db import transaction
from django.utils import timezone

from core.formats import read_record
from core.media import RATE, decode, listening_copy, open_sound, peaks, probe
from core.media.chunks import placed, read_flac, write_flac
from core.media.join import at_once, in_a_row
from core.media.tracks import line_of_tracks
from core.minutes import MinutesLine, propose_kind, write_minutes
from core.problems import InputProblem
from core.reading import READER_VERSION, AgendaPoint, Reading, read
from core.reading.base import Said, all_said
from core.record.assemble import assemble
from core.record.model import Record, Word
from core.record.timeline import Span
from core.speech import voice_activity
from core.speech.hear import Spoken, main_language
from core.speech.word_list import WordList
from core.voices import tell_apart
from core.voices.listen import Run
from server.capture.models import Chunk, LiveLine, Recording, Stretch, media_path
from server.meetings.models import Meeting, Place
from server.minutes.keep import keep_minutes, keep_reading
from server.minutes.queries import load_reading, template_of
from server.pipeline.ear import ear, encoder
from server.pipeline.files import hash_file, local, put, scratch, store
from server.pipeline.models import HearingCheckpoint, StageRun, VoicesCheckpoint
from server.pipeline.rewrite import keep_rewritten, rewrite
from server.record.keep import keep_record, load_record
from server.record.models import Turn
from server.record.strip import strips
from server.words.queries import expected, word_list

Report = Callable[[float], None]
"""Tells how much of the stage is done, 0 to 1."""


@dataclass(frozen=True)
class Stage:
    """One stage. `words` says what is going on, for people; `queue` is the queue its jobs wait in; `rate` is how many seconds of work
    a second of sound takes (target machine), until this server has measured its own."""

    name: str
    words: str
    engine: str
    queue: str
    work: Callable[[Meeting, Report], Any]
    keep: Callable[[Meeting, Any], dict | None]
    rate: float


def _result(meeting: Meeting, stage: str) -> Any:
    return StageRun.objects.get(meeting=meeting, stage=stage).result


# gather: the seconds that a browser sent, or several files of one meeting, become one lossless file


def _gather(meeting: Meeting, report: Report) -> str:
    if meeting.recording.form == Recording.Form.JOINED:
        return _join(meeting.recording, report)
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


def _gather_capture(meeting: Meeting, report: Report) -> str:
    """Write the recording anew: what was gathered before, then the stretches since. Returns the name it is stored under."""
    recording, capture = meeting.recording, meeting.capture
    stretches = list(capture.stretches.order_by("number"))
    tracks = list(dict.fromkeys(track for stretch in stretches for track in stretch.tracks))
    fresh = [stretch for stretch in stretches if not stretch.gathered]
    whole = sum(stretch.samples for stretch in stretches) or 1
    with scratch(meeting.pk) as folder:
        flac = folder / "captured.flac"
        with local(recording.original) if recording.original else nullcontext() as before:
            samples = write_flac(flac, _counted(_blocks(before, fresh, tracks), lambda done: report(done / whole)), len(tracks) or 1)
        if samples == 0:
            raise InputProblem("Nothing is left of this capture: nothing was on the record, or all of it was struck.")
        return put(media_path(recording, f"captured-{len(stretches)}.flac"), flac)


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


def _keep_gathered(meeting: Meeting, name: str) -> None:
    recording = meeting.recording
    before = recording.original.name
    recording.original = name
    recording.size, recording.sha256 = recording.original.size, ""
    recording.save(update_fields=["original", "size", "sha256"])
    if recording.form == Recording.Form.CAPTURED:
        Chunk.objects.filter(stretch__capture=meeting.capture).delete()
        meeting.capture.stretches.update(gathered=True)
    if before and before != name:
        transaction.on_commit(lambda: default_storage.delete(before))


# take in: what is it, and can it be used?

LONGEST = 12 * 3600
"""Seconds of a recording that is taken in."""


def _take_in(meeting: Meeting, report: Report) -> dict:
    with local(meeting.recording.original) as path:
        sha256 = meeting.recording.sha256 or hash_file(path)
        if meeting.recording.form == Recording.Form.TRANSCRIPT:
            record = read_record(path)
            return {"sha256": sha256, "duration": record.duration, "timed": record.timed}
        facts = probe(path)
    if (facts.duration or 0.0) > LONGEST:
        raise InputProblem(f"This recording is longer than {LONGEST / 3600:.0f} hours. Cut it into parts, and give those as one meeting.")
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


# decode: sound for the recogniser, and a copy that any browser plays


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
    """Which track is spoken into, where there are separate ones: several files at once, or the channels of one."""
    if recording.together == Recording.Together.TRACKS:
        with ExitStack() as files:
            return line_of_tracks([files.enter_context(local(part.file)) for part in recording.parts.order_by("position")])
    return line_of_tracks([path], recording.facts.get("channels", 1))


def _keep_duration(meeting: Meeting, result: dict) -> dict:
    Meeting.objects.filter(pk=meeting.pk).update(duration=result["duration"])
    return result


# hear: words, a checkpoint at a time

_HEARING_ENGINE = "whisper-base-int8/silero/5"
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
        checkpoints = HearingCheckpoint.objects.filter(meeting=meeting, engine=_HEARING_ENGINE)
        since = max(checkpoints.values_list("until", flat=True), default=0.0)
        for passage in ear().recogniser.passages(sound, spoken, since, expected(meeting)):
            HearingCheckpoint.objects.update_or_create(
                meeting=meeting,
                until=passage.until,
                defaults={"engine": _HEARING_ENGINE, "words": [word.packed() for word in passage.words]},
            )
            report(begun + (1 - begun) * sum((span & Span(0, passage.until)).duration for span in speech) / seconds)
    return run.result


def _speech(result: dict) -> list[Span]:
    return [Span(start, end) for start, end, *_ in result["speech"]]


def _hand_on(meeting: Meeting, result: dict) -> dict:
    """The result is only for the stages that follow."""
    return result


# voices: whose is each word, some windows at a time

_VOICES_ENGINE = "pyannet/cam++/2"


def _tell_voices(meeting: Meeting, report: Report) -> dict:
    heard = _result(meeting, "hear")
    speech = _speech(heard)
    words = [Word.unpacked(word) for row in HearingCheckpoint.objects.filter(meeting=meeting).order_by("until") for word in row.words]
    checkpoints = VoicesCheckpoint.objects.filter(meeting=meeting, engine=_VOICES_ENGINE).order_by("until")
    since = max(checkpoints.values_list("until", flat=True), default=0.0)
    with local(meeting.recording.sound) as wav:
        sound = open_sound(wav)
        for found in ear().voices.listen(sound, speech, since):
            VoicesCheckpoint.objects.update_or_create(
                meeting=meeting,
                until=found.until,
                defaults={"engine": _VOICES_ENGINE, "runs": [[run.start, run.end, run.clear, _rounded(run.vector)] for run in found.runs]},
            )
            report(0.95 * found.until * RATE / max(1, len(sound)))
    runs = [Run(start, end, clear, np.array(vector)) for row in checkpoints for start, end, clear, vector in row.runs]
    # A capture's tracks are a room and a computer, each with any number of voices; those of files are a participant each.
    one_each = meeting.recording.form != Recording.Form.CAPTURED
    told = tell_apart(words, runs, meeting.expected_voices, (_result(meeting, "decode") or {}).get("tracks", ""), one_each)
    return {
        "words": [word.packed() for word in told.words],
        "voices": {label: _rounded(vector) for label, vector in told.voices.items()},
    }


def _rounded(vector: np.ndarray) -> list[float]:
    return [round(float(value), 4) for value in vector]


# assemble the record


def _assemble(meeting: Meeting, report: Report) -> tuple[Record, dict]:
    if meeting.recording.form == Recording.Form.TRANSCRIPT:
        with local(meeting.recording.original) as path:
            return read_record(path), {}
    heard, told = _result(meeting, "hear"), _result(meeting, "voices")
    words = WordList(word_list(meeting), heard["language"] or "en").correct([Word.unpacked(word) for word in told["words"]], report)
    turns = assemble(words, heard["language"])
    return Record(str(meeting.id), turns, meeting.duration, heard["language"] if turns else None), told["voices"]


def _keep_record(meeting: Meeting, result: tuple[Record, dict]) -> None:
    record, embeddings = result
    keep_record(meeting, record, embeddings)
    # From here on the words live in the record alone.
    HearingCheckpoint.objects.filter(meeting=meeting).delete()
    VoicesCheckpoint.objects.filter(meeting=meeting).delete()
    LiveLine.objects.filter(capture__meeting=meeting).delete()
    StageRun.objects.filter(meeting=meeting, stage="voices").update(result=None)


# English beside what was said in other languages


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


# read and write minutes


def _read(meeting: Meeting, report: Report) -> tuple[Reading, str]:
    """What is read, and the template that the talk suggests."""
    record = load_record(meeting)
    agenda = [AgendaPoint(point.text, point.begun_at) for point in meeting.points.all()]
    named = f"{meeting.title} {meeting.series.name if meeting.series else ''}"
    return read(record, encoder(), agenda, report), propose_kind(named, record, all_said(record)) or ""


def _keep_reading(meeting: Meeting, found: tuple[Reading, str]) -> None:
    keep_reading(meeting, *found)


def _write(meeting: Meeting, report: Report) -> tuple[list[MinutesLine], list[Said]]:
    """The minutes, and the lines of the record they were drawn from."""
    record = load_record(meeting)
    return write_minutes(load_reading(meeting, record), record, template_of(meeting)), all_said(record)


def _keep_minutes(meeting: Meeting, drawn: tuple[list[MinutesLine], list[Said]]) -> None:
    keep_minutes(meeting, *drawn)


# index: what the library shows of a meeting without opening it


def _index(meeting: Meeting, report: Report) -> dict:
    standing = meeting.findings.filter(status="standing", kind__in=["decision", "action", "question"]).values_list("kind", flat=True)
    return {"strip": strips(meeting), "counts": dict(Counter(standing))}


def _keep_index(meeting: Meeting, result: dict) -> None:
    Meeting.objects.filter(pk=meeting.pk).update(strip=result["strip"], counts=result["counts"])


# tell people


def _tell(meeting: Meeting, report: Report) -> bool:
    return meeting.ready_at is None


def _keep_told(meeting: Meeting, first_time: bool) -> None:
    if not first_time:
        return
    Meeting.objects.filter(pk=meeting.pk).update(ready_at=timezone.now())
    when = meeting.started_at.astimezone(ZoneInfo(meeting.time_zone))
    at = f"{settings.BASE_URL}/meetings/{meeting.id}"
    if meeting.place == Place.MEMO:
        by = meeting.created_by and meeting.created_by.called or "A colleague"
        for address in _recipients(meeting):
            send_mail(
                f"{by} has spoken a memo to you: {meeting.title}",
                f"Read it, hear it, and answer it here ({when:%A %-d %B, %H:%M}):\n\n{at}\n",
                None,
                [address],
                fail_silently=True,
            )
    if meeting.created_by:
        send_mail(
            f"Ready to read: {meeting.title}",
            f"The record and the minutes of “{meeting.title}” ({when:%A %-d %B, %H:%M}) are ready:\n\n{at}\n",
            None,
            [meeting.created_by.email],
            fail_silently=True,
        )


def _recipients(meeting: Meeting) -> list[str]:
    """The addresses of those a memo is for."""
    people = meeting.people.exclude(user=meeting.created_by).select_related("user")
    return [person.user.email if person.user else person.email for person in people if person.user or person.email]


STAGES = (
    Stage("gather", "putting the seconds together", "flac/1", "intake", _gather, _keep_gathered, 0.004),
    Stage("take_in", "looking at the file", "pyav/1", "intake", _take_in, _keep_facts, 0.001),
    Stage("decode", "decoding the sound", "pyav/1", "intake", _decode, _keep_duration, 0.02),
    Stage("hear", "hearing the words", _HEARING_ENGINE, "hearing", _hear, _hand_on, 0.1),
    Stage("voices", "telling the voices apart", _VOICES_ENGINE, "hearing", _tell_voices, _hand_on, 0.03),
    Stage("assemble", "putting the record together", "1", "reading", _assemble, _keep_record, 0.004),
    Stage("strike", "writing the files anew without what was struck", "pyav/1", "intake", rewrite, keep_rewritten, 0.05),
    Stage("english", "putting it into English", _HEARING_ENGINE, "hearing", _put_in_english, _keep_english, 0.001),
    Stage("read", "reading the record", READER_VERSION, "reading", _read, _keep_reading, 0.006),
    Stage("minutes", "writing the minutes", "2", "reading", _write, _keep_minutes, 0.003),
    Stage("index", "indexing", "1", "reading", _index, _keep_index, 0.001),
    Stage("tell", "telling people", "1", "reading", _tell, _keep_told, 0.001),
)
BY_NAME = {stage.name: stage for stage in STAGES}
QUEUES = tuple(dict.fromkeys(stage.queue for stage in STAGES))
OF_TRANSCRIPTS = ("take_in", "assemble", "strike", "read", "minutes", "index", "tell")
AFTER_CHANGES = ("read", "minutes", "index")
"""What is done anew when the record changes under the minutes."""
AFTER_STRIKE = ("strike", "english", *AFTER_CHANGES)
"""What is done when a passage was struck: first of all it is taken out of the files."""


def stages_of(recording: Recording) -> tuple[str, ...]:
    """The stages a recording goes through; that of strikes only where something was struck."""
    names = OF_TRANSCRIPTS if recording.form == Recording.Form.TRANSCRIPT else tuple(BY_NAME)
    left = {"gather"} if recording.form == Recording.Form.MEDIA else set()
    if not recording.withheld:
        left.add("strike")
    return tuple(name for name in names if name not in left)


__all__ = ["AFTER_CHANGES", "AFTER_STRIKE", "BY_NAME", "QUEUES", "STAGES", "InputProblem", "Stage", "stages_of"]
