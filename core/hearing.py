"""A media file → a record, in one go: what `aftershower hear` runs; the server's stages run the same parts one by one."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

from core.media import decode, open_sound, probe
from core.media.tracks import line_of_tracks
from core.record.assemble import assemble
from core.record.model import Record
from core.speech import Recogniser, voice_activity
from core.speech.hear import main_language
from core.speech.word_list import Term, WordList
from core.voices import VoiceModels, all_runs, tell_apart

WHISPER, VOICES = "whisper-base", "voices"
"""Where the models lie under the models' folder."""
_AHEAD = 6  # stretches begun before the first is done: here nothing is kept in between, so that being killed costs all anyway


@dataclass(frozen=True, slots=True)
class Heard:
    """The record, and seconds of work by part: decode, hear, voices, total."""

    record: Record
    timings: dict[str, float]


class Ear:
    """The models, loaded once and kept."""

    def __init__(self, models: Path, *, live: bool = False):
        """models: the folder with the models of the lock file. live: for hearing while people speak."""
        self.recogniser = Recogniser(models / WHISPER, live=live)
        self.voices = VoiceModels(models / VOICES)
        self._beside = ThreadPoolExecutor(1)

    def hear(self, media: Path, language: str | None = None, voices: int | None = None, terms: Sequence[Term] = ()) -> Heard:
        """Hear a file. terms: the word list: what to expect, and to put right where it was nearly heard.

        Raises InputProblem when it cannot be used; a file in which nobody speaks gives a record without turns.
        """
        began = time.perf_counter()
        facts = probe(media)
        with tempfile.TemporaryDirectory() as scratch:
            wav = Path(scratch) / "sound.wav"
            duration = decode(media, wav)
            decoded = time.perf_counter()
            sound = open_sound(wav)
            speech = voice_activity(sound)
            expected = [term.text for term in terms]
            spoken = self.recogniser.spoken(sound, speech, language.split("+") if language else ())
            language = main_language(spoken)
            # Words and voices do not wait for each other: what one of them leaves of the processor, the other uses.
            listening = self._beside.submit(lambda: all_runs(self.voices.listen(sound, speech)))
            words = [word for passage in self.recogniser.passages(sound, spoken, terms=expected, ahead=_AHEAD) for word in passage.words]
            heard = time.perf_counter()
            tracks = line_of_tracks([media], facts.channels)
            told = tell_apart(words, listening.result(), voices, tracks, one_each=True)
            corrected = WordList(terms, language or "en").correct(told.words)
            done = time.perf_counter()
        record = Record(media.stem, assemble(corrected, language), duration, language if words else None)
        return Heard(record, {"decode": decoded - began, "hear": heard - decoded, "voices": done - heard, "total": done - began})
