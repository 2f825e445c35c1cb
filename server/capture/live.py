"""The live record: one job a capture, which hears what arrives while people speak."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import replace

import av
import numpy as np
from django.db import transaction
from procrastinate import RetryStrategy
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

from core.media.chunks import CAPTURE_RATE
from core.media.decode import RATE
from core.media.tracks import TrackLine, track_at
from core.record.assemble import assemble
from core.record.model import Line, Word
from core.record.sentences import ends_sentence
from core.record.spacing import words_in, written
from core.speech.live import LiveHearing, Step
from server.capture.models import SLOT, Capture, LiveLine, Stretch
from server.capture.queries import begins_at
from server.notify import Part, notify
from server.pipeline.ear import ear
from server.pipeline.work import Queue, fresh_connections
from server.problems import AWAY
from server.words.queries import expected

logger = logging.getLogger("server.pipeline")

_WAIT = 0.2  # seconds between looks for new sound
_GIVE_UP = 3600.0  # a stretch that brings nothing for so long is not waited for; a new one calls for a new job
_PAUSE = 2.0  # seconds
_LONGEST_LINE = 40  # words; a talk without full stops is still shown in lines
# The processor is shared by all captures of a worker: hearing two at once would slow both.
_hearing = threading.Lock()


def listen_to(capture: Capture) -> None:
    """Queue the hearing of a capture, in the transaction that is open."""
    with suppress(AlreadyEnqueued), transaction.atomic():
        listen.configure(queue=Queue.LIVE, lock=f"live-{capture.pk}", queueing_lock=f"live-{capture.pk}").defer(capture_id=str(capture.pk))


@app.task(name="listen", retry=RetryStrategy(max_attempts=50, wait=1, retry_exceptions=set(AWAY)))
def listen(capture_id: str) -> None:
    """Hear the stretches of a capture until it is off the record and all that arrived is heard. Begun again, it goes on where lines end."""
    with fresh_connections():
        try:
            for stretch in _stretches(capture_id):
                _listen_in(capture_id, stretch)
        except (Capture.DoesNotExist, Stretch.DoesNotExist):
            logger.info("capture %s was thrown away while it was heard", capture_id)


def _stretches(capture_id: str) -> Iterator[Stretch]:
    done = -1
    while stretch := Stretch.objects.filter(capture_id=capture_id, number__gt=done, gathered=False, heard=False).order_by("number").first():
        done = stretch.number
        yield stretch


def _listen_in(capture_id: str, stretch: Stretch) -> None:
    """Hear one stretch to its end. Chunks that are late are waited for, so that words come in order."""
    capture = Capture.objects.get(pk=capture_id)
    begins = begins_at(capture, stretch)
    since = capture.lines.filter(settled=True, start__gte=begins).order_by("-end").values_list("end", flat=True).first() or begins
    hearing = LiveHearing(
        ear(live=True).recogniser, begins, capture.meeting.language.split("+")[0] or None, since, expected(capture.meeting)
    )
    sound, number, last_news = _Sound(stretch.tracks), 0, time.monotonic()
    while True:
        fresh = list(stretch.received.filter(number__gte=number).order_by("number").values_list("number", "data")[: int(hearing.room)])
        for arrived, data in fresh:
            if arrived != number:
                break
            hearing.feed(sound.heard(bytes(data)))
            number, last_news = number + 1, time.monotonic()
        stretch.refresh_from_db()
        over = stretch.gathered or stretch.chunks is not None and number >= stretch.chunks
        with _hearing:
            step = hearing.step(last=over)
        if step:
            _keep(capture_id, stretch, begins, step, hearing, sound)
        if over:
            Stretch.objects.filter(pk=stretch.pk).update(heard=True)
        if over or time.monotonic() - last_news > _GIVE_UP:
            return
        if step is None:
            time.sleep(_WAIT)


class _Sound:
    """Chunks of a stretch → mono sound for the recogniser, and whose track it is at each moment, where each has one."""

    def __init__(self, tracks: list[str]):
        self._channels = len(tracks)
        self._line = TrackLine(CAPTURE_RATE) if tracks[0].startswith(SLOT) else None
        self._resampler = av.AudioResampler(format="s16", layout="mono", rate=RATE)

    def heard(self, data: bytes) -> np.ndarray:
        samples = np.frombuffer(data, "<i2").reshape(-1, self._channels).astype(np.int32)
        if len(samples) == 0:
            return np.zeros(0, np.int16)
        if self._line:
            self._line.add(samples)
        mixed = np.clip(samples.sum(axis=1), -32768, 32767).astype(np.int16)
        frame = av.AudioFrame.from_ndarray(mixed.reshape(1, -1), format="s16", layout="mono")
        frame.sample_rate = CAPTURE_RATE
        return np.concatenate([block.to_ndarray().reshape(-1) for block in self._resampler.resample(frame)] or [np.zeros(0, np.int16)])

    def whose(self, words: list[Word], begins: float) -> list[Word]:
        """The words, each with the slot it was spoken into as its voice. begins: the second of the record at which the stretch does."""
        line = self._line.written if self._line else ""  # of a long stretch it is long, too: once for all of them
        slots = [track_at(line, word.start - begins, word.end - begins) for word in words]
        return [replace(word, voice=None if slot is None else str(slot)) for word, slot in zip(words, slots, strict=True)]


@transaction.atomic
def _keep(capture_id: str, stretch: Stretch, begins: float, step: Step, hearing: LiveHearing, sound: _Sound) -> None:
    """Put what is settled behind the lines there are, and what is open after it; nothing of what was struck meanwhile."""
    capture = Capture.objects.select_for_update().get(pk=capture_id)
    struck = [(begins + part.first / CAPTURE_RATE, begins + part.end / CAPTURE_RATE) for part in stretch.struck.all()]
    names = {str(one.slot): one.called for one in capture.participants.filter(slot__isnull=False).select_related("person")}
    settled = sound.whose([word for word in step.settled if not _in(word, struck)], begins)
    still_open = sound.whose([word for word in step.open if not _in(word, struck)], begins)
    LiveLine.objects.filter(capture=capture, settled=False).delete()
    last = capture.lines.order_by("-number").first()
    number = last.number if last else 0
    fresh = _lines(settled, names)
    if fresh and last and last.name == fresh[0][1] and _goes_on(last, settled[0], begins):
        first, _ = fresh.pop(0)
        last.text, last.end, last.translations = written([last.text, first.text]), first.end, {}
        last.save(update_fields=["text", "end", "translations"])
    rows = [(line, name, True) for line, name in fresh] + [(line, name, False) for line, name in _lines(still_open, names)]
    LiveLine.objects.bulk_create(
        [
            LiveLine(capture=capture, number=number + index, start=line.start, end=line.end, text=line.text, name=name, settled=final)
            for index, (line, name, final) in enumerate(rows, start=1)
        ]
    )
    Capture.objects.filter(pk=capture_id).update(heard_until=hearing.reached)
    notify(capture.meeting_id, Part.LIVE)


def _lines(words: list[Word], names: dict[str, str]) -> list[tuple[Line, str]]:
    """Lines, each with whose it is, "" where that is not known. names: by slot."""
    return [(line, names.get(turn.speaker, "")) for turn in assemble(words) for line in turn.lines]


def _goes_on(line: LiveLine, word: Word, begins: float) -> bool:
    """Does a word belong to the line before it: same stretch, no long pause, its sentence not ended?"""
    words = words_in(line.text)
    return line.start >= begins and word.start - line.end < _PAUSE and len(words) < _LONGEST_LINE and not ends_sentence(words[-1])


def _in(word: Word, struck: list[tuple[float, float]]) -> bool:
    return any(word.end > start and word.start < end for start, end in struck)
