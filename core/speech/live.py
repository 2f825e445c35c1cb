"""Words while people speak: the last seconds are heard again and again, and what two hearings in a row agree on is settled.

Local agreement (Liu, Spanakis, Niehues: Low-Latency Sequence-to-Sequence Speech Recognition and Translation by Partial Hypothesis
Selection, Interspeech 2020; used with Whisper by Macháček, Dabre, Bojar: Turning Whisper into Real-Time Transcription System, 2023).
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from core.media.decode import RATE
from core.record.model import Word
from core.record.sentences import ends_sentence
from core.record.timeline import Span
from core.speech.activity import voice_activity
from core.speech.hear import Recogniser, foremost

# After this much silence everything said before it is settled.
_PAUSE = 0.7
# Sound that is kept to be heard again; longer than any hearing needs for its context, short enough to stay ahead of the talk.
_LONGEST = 14.0
# More than that may be fed when the hearing has fallen behind; together they stay under the recogniser's 30 s.
_CATCH_UP = 10.0
# Settled sound that is kept in front of a cut, so that the next hearing does not begin in the middle of a phrase.
_CONTEXT = 3.0
# When the hearings of a long passage never agree, all but these last seconds of it is settled as it is.
_UNSURE = 3.0
# Silence that is kept before speech, since voice activity notices speech a little late.
_LEAD = 0.5
# The same word again this close behind the last one settled is that one.
_SAME_WORD = 0.3
# Seconds of speech by which the language is told for good; a word or two may sound like any.
_TELLING = 5.0
_MORE_TO_HEAR = 0.4  # seconds of new sound without which a hearing would say the same again


@dataclass(frozen=True, slots=True)
class Step:
    """What one hearing gave: words settled by it, in order, and the words that may still change. Times are of the capture."""

    settled: tuple[Word, ...]
    open: tuple[Word, ...]


class LiveHearing:
    """Hears a stretch of sound as it comes. One a stretch; `feed` what has arrived, `step` when there is time to hear."""

    def __init__(
        self, recogniser: Recogniser, begins: float = 0.0, language: str | None = None, since: float = 0.0, terms: Sequence[str] = ()
    ):
        """begins: second of the capture at which the stretch begins. language: None to find out from the first seconds of speech.

        since: second up to which the words are known already, when the hearing of a stretch is begun again. terms: names and jargon
        to expect.
        """
        self._recogniser, self.language, self._terms = recogniser, language, terms
        self._told = language is not None
        self._votes: list[dict[str, float]] = []  # of the speech that is settled, and how long that is
        self._voted = 0.0
        self._sound = np.zeros(0, np.int16)
        self._base = begins  # the second at which self._sound begins
        self._heard_to = begins  # how far the last hearing reached
        self._last = Word("", max(begins, since), max(begins, since))
        self._before: tuple[Word, ...] = ()

    def feed(self, samples: np.ndarray) -> None:
        """More sound: int16, shape (samples,), 16 kHz."""
        self._sound = np.concatenate([self._sound, samples])

    @property
    def reached(self) -> float:
        """The second of the capture up to which sound has been fed."""
        return self._base + len(self._sound) / RATE

    @property
    def behind(self) -> float:
        """Seconds of sound that have been fed and not been heard yet."""
        return self.reached - self._heard_to

    def step(self, last: bool = False) -> Step | None:
        """Hear once. None when there is too little new sound. last: the stretch has ended, so everything is settled."""
        if self.behind < _MORE_TO_HEAR and not last:
            return None
        self._heard_to = self.reached
        speech = voice_activity(self._sound)
        if not speech:
            settled, self._before = self._before, ()
            self._drop(self.reached - (0.0 if last else _LEAD))
            return Step(settled, ())
        now = [] if self._told else self._tell(speech)
        spoken_until = self._base + speech[-1].end
        self._drop(self._base + max(0.0, speech[0].start - _LEAD))
        found = [_moved(word, self._base) for word in self._recogniser.quick(self._sound, self.language or "en", self._terms)]
        words = tuple(word for word in found if not self._is_settled(word))
        over = last or self.reached - spoken_until >= _PAUSE
        settled = words if over else words[: _agreed(self._before, words)]
        if not over and len(self._sound) / RATE > _LONGEST and not self._shortens(settled):
            settled = tuple(word for word in words if word.end < self.reached - _UNSURE)
        rest = words[len(settled) :]
        if settled:
            self._last = settled[-1]
        self._before = rest
        if over:
            self._votes += now
            self._voted += sum(span.duration for span in speech)
            self._drop(self.reached - (0.0 if last else _LEAD))
        elif len(self._sound) / RATE > _LONGEST:
            # Too long to be heard whole each time: cut behind what is settled, at the end of a sentence where there is one.
            self._drop(self._cut(settled) - _CONTEXT)
        return Step(settled, rest)

    def _tell(self, speech: Sequence[Span]) -> list[dict[str, float]]:
        """Find the language out from this speech and what was settled before; the votes of this speech."""
        now = self._recogniser.votes(self._sound, speech)
        language = foremost([*self._votes, *now])[0]
        if language != self.language:
            self._before = ()  # what was heard as another language agrees with nothing
        self.language = language
        self._told = self._voted + sum(span.duration for span in speech) >= _TELLING
        return now

    @property
    def room(self) -> float:
        """Seconds of sound that may still be fed before the next hearing; more than the recogniser hears at once would be lost."""
        return max(0.0, _LONGEST + _CATCH_UP - len(self._sound) / RATE)

    def _shortens(self, settled: Sequence[Word]) -> bool:
        """Would cutting behind these words leave little enough to be heard again?"""
        return bool(settled) and self.reached - self._cut(settled) < _LONGEST

    def _is_settled(self, word: Word) -> bool:
        """Was it settled by an earlier hearing? Times differ a little from hearing to hearing."""
        last = self._last
        return (word.start + word.end) / 2 <= last.end or _plain(word) == _plain(last) and word.start < last.end + _SAME_WORD

    def _cut(self, settled: Sequence[Word]) -> float:
        ends = [word.end for word in settled if ends_sentence(word.text)]
        end = settled[-1].end if settled else self._last.end
        return max(ends[-1] if ends else end, self.reached - _LONGEST)

    def _drop(self, until: float) -> None:
        """Forget the sound before a second of the capture."""
        samples = max(0, int((until - self._base) * RATE))
        self._sound = self._sound[samples:]
        self._base += samples / RATE


def _moved(word: Word, seconds: float) -> Word:
    return replace(word, start=round(word.start + seconds, 3), end=round(word.end + seconds, 3))


def _plain(word: Word) -> str:
    return re.sub(r"\W", "", word.text).lower()


def _agreed(before: Sequence[Word], now: Sequence[Word]) -> int:
    """How many words at the beginning two hearings have in common; the last word of a hearing is still being said."""
    count = 0
    for old, new in zip(before, now, strict=False):
        if _plain(old) != _plain(new):
            break
        count += 1
    return min(count, max(0, len(now) - 1))
