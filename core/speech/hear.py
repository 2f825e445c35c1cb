"""Speech → words: Whisper in CTranslate2's form, run by faster-whisper over stretches of voice activity."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from itertools import groupby
from pathlib import Path
from types import SimpleNamespace

import numpy as np
from ctranslate2 import StorageView
from faster_whisper import BatchedInferencePipeline, WhisperModel
from faster_whisper.tokenizer import Tokenizer
from faster_whisper.transcribe import Segment, get_suppressed_tokens

from core.media.decode import RATE, as_float
from core.parallel import in_order
from core.record.model import Word, parts_of
from core.record.timeline import Span, merge, pack
from core.text import folded

# Whisper hears 30 s at a time. Where there is no silence behind the words it leaves some out (with 29 s one word in 250 of the demo's
# sound), so that there is room left; less of it where a rest of a second would have to be heard by itself.
_STRETCH, _REST = 28.0, 1.5
# Stretches heard at the same time, each with its share of the processor: that is quicker by an eighth than one after the other with
# all of it (measured), and two keep the sound that a killed worker has to hear again under a minute.
_AT_ONCE = 2
# Text that repeats itself compresses better than speech does (OpenAI's Whisper draws the line at 2.4). So does rhetoric,
# so that repetition alone is no proof: the words are taken for invented only where they are improbable as well.
_COMPRESSION, _REPEATED_LOGPROB = 2.4, -0.5
# Below this mean log probability, together with a likely "no speech", words are taken for invented (Whisper: -1.0, 0.6).
_LOGPROB, _NO_SPEECH = -1.0, 0.6
# Passages that vote on the language, spread over the speech, and again as many where they disagree. A second language counts where
# it is the likelier half of at least two of them.
_VOTES, _CLEAR_VOTE, _CLEAR_VOTES = 6, 0.5, 2
# A passage by which a language is told: at least, at most so many seconds, the pause that ends it, and how much likelier a change
# from one language to the other must be.
_TELLING, _TELLING_MOST, _APART, _CLEARER = 2.5, 10.0, 1.5, 2.0
# Hypotheses kept while decoding: with 3 hearing takes a twelfth longer and one word in 200 fewer is wrong (measured on the demo's sound).
_BEAM = 3
# Speech of at least so many seconds of which less than this share has words is heard again by itself, with more hypotheses; words that
# are hardly probable even then stay out.
_SAYING, _HARDLY, _BEAM_AGAIN, _SURE = 0.8, 0.25, 5, 0.5
# Frames of 10 ms: the encoder's whole window, and the silence behind a short passage. With 200 frames the words differ from
# those of the whole window in 3 to 10 of a hundred; with none the decoder goes round in circles (measured on the demo's sound).
_WINDOW, _MARGIN = 3000, 200


_SIGNS = ".,;:!?…\"'()-–—¿¡"


@dataclass(frozen=True, slots=True)
class Spoken:
    """A span of speech and the language in it (ISO 639-1)."""

    span: Span
    language: str


@dataclass(frozen=True, slots=True)
class Passage:
    """Words heard in one go; `until` is the second up to which all speech has been heard: a checkpoint."""

    words: tuple[Word, ...]
    until: float


@dataclass(frozen=True, slots=True)
class Hearing:
    """The outcome for a recording: words in order of time, and the language's ISO 639-1 code (None: nothing heard)."""

    words: tuple[Word, ...]
    language: str | None


def main_language(spoken: Sequence[Spoken]) -> str | None:
    """The language in which most is said; None without speech."""
    seconds: dict[str, float] = {}
    for one in spoken:
        seconds[one.language] = seconds.get(one.language, 0.0) + one.span.duration
    return _likeliest(seconds) if seconds else None


class Recogniser:
    """Holds the model; loading takes about a second, so one is kept by each worker."""

    def __init__(self, folder: Path, *, live: bool = False):
        """folder: a CTranslate2 Whisper model. live: for hearing while people speak, which needs one thing at a time, and soon."""
        self._alone = _load(folder, 1)
        self._together = self._alone if live else _load(folder, _AT_ONCE)
        self._pool = ThreadPoolExecutor(_AT_ONCE)

    def votes(self, sound: np.ndarray, speech: Sequence[Span]) -> list[dict[str, float]]:
        """How likely which language is, by passage: some spread over the speech, of a short one all. [] without speech."""
        groups = list(_groups(speech))
        votes: dict[int, dict[str, float]] = {}
        for most in (_VOTES, 2 * _VOTES):
            asked = np.unique(np.linspace(0, len(groups) - 1, min(len(groups), most)).astype(int)) if groups else ()
            fresh = [index for index in asked if index not in votes]
            votes |= zip(fresh, self._pool.map(lambda index: self._likely(sound, groups[index]), fresh), strict=True)
            if len({_likeliest(vote) for vote in votes.values()}) < 2:
                break
        return list(votes.values())

    def _likely(self, sound: np.ndarray, group: Sequence[Span]) -> dict[str, float]:
        """The probability of each language in neighbouring spans."""
        span = group[0] | group[-1]
        model = self._together
        encoded, _ = _encoded(model, _cut(sound, Span(span.start, min(span.end, span.start + _TELLING_MOST))))
        [heard] = model.model.detect_language(encoded)
        return {token[2:-2]: probability for token, probability in heard}  # "<|en|>"

    def spoken(
        self,
        sound: np.ndarray,
        speech: Sequence[Span],
        languages: Sequence[str] = (),
        progress: Callable[[float], None] = lambda share: None,
    ) -> list[Spoken]:
        """The speech with the language of each span. languages: the one or two that are spoken; without, it is found out. progress: told
        the share of the speech whose language is known, where there are two.

        Of two languages each passage has the likelier one. A second one is found only where it is clear in two of the passages that vote.
        """
        if not speech:
            return []
        if not languages:
            votes = self.votes(sound, speech)
            main, *others = foremost(votes)
            clear = [code for code in others if sum(vote[code] > _CLEAR_VOTE for vote in votes) >= _CLEAR_VOTES]
            languages = [main, *clear[:1]]
        if len(languages) == 1:
            return [Spoken(span, languages[0]) for span in speech]
        told: list[Spoken] = []
        for group in self._told_apart(sound, speech, languages):
            told += group
            progress(len(told) / len(speech))
        return told

    def _told_apart(self, sound: np.ndarray, speech: Sequence[Span], languages: Sequence[str]) -> Iterator[list[Spoken]]:
        before = languages[0]
        for group, heard in in_order(self._pool, lambda group: self._likely(sound, group), _groups(speech), 2 * _AT_ONCE):
            likely = {code: heard.get(code, 0.0) for code in languages}
            best = _likeliest(likely)
            # A short or unclear passage goes on in the language of the one before.
            before = best if likely[best] > _CLEARER * min(likely.values()) else before
            yield [Spoken(span, before) for span in group]

    def passages(
        self, sound: np.ndarray, spoken: Sequence[Spoken], since: float = 0.0, terms: Sequence[str] = (), ahead: int = _AT_ONCE
    ) -> Iterator[Passage]:
        """Hear the speech after second `since`, a checkpoint at a time.

        sound: int16, shape (samples,), 16 kHz. spoken: in order. terms: names and jargon that the recogniser is to expect. ahead:
        stretches of up to 28 s that are begun before the first of them is yielded: with more of them no part of the processor waits for
        a long one, and whoever is killed has more to hear again. Resuming with `since` = the last passage's `until` yields exactly the
        passages that are missing.
        """
        speech = [one.span for one in spoken]
        stretches = [
            (stretch, language)
            for language, together in groupby(spoken, lambda one: one.language)
            for stretch in pack([one.span for one in together], _STRETCH, _REST)
            if stretch.end > since
        ]
        # A single stretch is heard soonest with the whole processor.
        model = self._together if len(stretches) > 1 else self._alone
        for (stretch, _), words in in_order(self._pool, lambda one: _words(model, sound, *one, terms, speech), stretches, ahead):
            yield Passage(words, stretch.end)

    def english(self, sound: np.ndarray, span: Span, language: str) -> str:
        """What is said in another language between two seconds, in English, by the engine itself; "" where it hears nothing."""
        block = as_float(_cut(sound, span))
        clips = [{"start": piece.start - span.start, "end": piece.end - span.start} for piece in pack([span], _STRETCH, _REST)]
        segments, _ = BatchedInferencePipeline(self._alone).transcribe(
            block, language=language, task="translate", clip_timestamps=clips, batch_size=len(clips), beam_size=5, vad_filter=False
        )
        return " ".join(segment.text.strip() for segment in segments if not _invented(segment)).strip()

    def quick(self, sound: np.ndarray, language: str, terms: Sequence[str] = ()) -> list[Word]:
        """Words of up to 28 s of sound, int16, shape (samples,), 16 kHz: the likeliest at each step, for hearing while people speak."""
        model = self._alone
        encoded, frames = _encoded(model, sound)
        tokenizer = Tokenizer(model.hf_tokenizer, True, task="transcribe", language=language)
        prompt = model.get_prompt(tokenizer, [], without_timestamps=True, hotwords=_expectation(terms))
        [heard] = model.model.generate(
            encoded,
            [prompt],
            beam_size=1,
            # Nobody says more than ten tokens a second; what the recogniser is told counts as well, and can be longer than all that is said.
            max_length=min(model.max_length, len(prompt) + 40 + frames // 10),
            no_repeat_ngram_size=4,  # without silence to end in, the decoder is apt to go round in circles
            suppress_tokens=get_suppressed_tokens(tokenizer, [-1]),
            return_scores=True,
            return_no_speech_prob=True,
        )
        tokens = [token for token in heard.sequences_ids[0] if token < tokenizer.eot]
        if not tokens or heard.scores[0] < _LOGPROB and heard.no_speech_prob > _NO_SPEECH:
            return []
        [pieces] = model.find_alignment(tokenizer, [tokens], encoded, frames)
        words = list(_joined((SimpleNamespace(**piece) for piece in pieces if piece["word"].strip()), 0.0))
        return self.quick(sound, language) if recited(words, terms) else words


def _load(folder: Path, at_once: int) -> WhisperModel:
    """The model, to be used so many times at once, each time with its share of the processor."""
    threads = max(1, (os.cpu_count() or 1) // at_once)
    return WhisperModel(str(folder), device="cpu", compute_type="int8", cpu_threads=threads, num_workers=at_once, local_files_only=True)


def _encoded(model: WhisperModel, sound: np.ndarray) -> tuple[StorageView, int]:
    """The encoder's output and the frames of sound in it, for up to 28 s of sound.

    Whisper's encoder is trained on 30 s and is usually given as much, most of it silence. It hears a short passage nearly as well
    in a window that ends _MARGIN after it, several times faster.
    """
    features = model.feature_extractor(as_float(np.asarray(sound)))
    return model.encode(np.pad(features, ((0, 0), (0, _MARGIN)))[:, :_WINDOW]), features.shape[1]


def _words(
    model: WhisperModel, sound: np.ndarray, stretch: Span, language: str, terms: Sequence[str], speech: Sequence[Span]
) -> tuple[Word, ...]:
    """The words of a stretch. Of speech the recogniser is apt to leave out what is said twice: where it has no words, it is asked again."""
    words = _heard(model, sound, stretch, language, terms, _BEAM)
    for gap in _missed(words, [span & stretch for span in speech if span.overlaps(stretch)]):
        words += [word for word in _heard(model, sound, gap, language, (), _BEAM_AGAIN) if word.probability >= _SURE]
    return tuple(sorted(words, key=lambda word: word.start))


def _missed(words: Sequence[Word], speech: Sequence[Span]) -> list[Span]:
    """Spans of speech, long enough to say something, in which hardly a word was heard."""
    heard = merge(Span(word.start, word.end) for word in words)
    return [span for span in speech if span.duration >= _SAYING and sum((span & one).duration for one in heard) < _HARDLY * span.duration]


def _heard(model: WhisperModel, sound: np.ndarray, span: Span, language: str, terms: Sequence[str], beam: int) -> list[Word]:
    words = _decoded(model, sound, span, language, terms, beam)
    return _decoded(model, sound, span, language, (), beam) if recited(words, terms) else words


def recited(words: Sequence[Word], terms: Sequence[str]) -> bool:
    """Is nothing there but what the recogniser was told to expect? Of broken or hardly any sound it is apt to say just that."""
    told = {word for term in terms for word in folded(term).split()}
    heard = [folded(word.text).strip(_SIGNS) for word in words]
    return len(heard) > 1 and all(word in told for text in heard for word in text.split())


def _decoded(model: WhisperModel, sound: np.ndarray, span: Span, language: str, terms: Sequence[str], beam: int) -> list[Word]:
    block = as_float(_cut(sound, span))
    segments, _ = BatchedInferencePipeline(model).transcribe(
        block,
        language=language,
        hotwords=_expectation(terms),
        clip_timestamps=[{"start": 0.0, "end": len(block) / RATE}],
        batch_size=1,
        beam_size=beam,
        word_timestamps=True,
        vad_filter=False,
    )
    return [
        replace(word, language=language)
        for segment in segments
        if not _invented(segment)
        for word in _joined(segment.words or (), span.start)
    ]


def _expectation(terms: Sequence[str]) -> str | None:
    """The terms as the recogniser is told them. It takes its manner from what it is told: after a list with commas it hardly ends
    sentences any more; after short sentences it ends a quarter more of them, at the same word error rate (measured on the demo's sound).
    """
    return ". ".join(terms) + "." if terms else None


def foremost(votes: Sequence[dict[str, float]]) -> list[str]:
    """Languages, likeliest first, over all votes together."""
    together: dict[str, float] = {}
    for vote in votes:
        for code, probability in vote.items():
            together[code] = together.get(code, 0.0) + probability
    return sorted(together, key=lambda code: together[code], reverse=True)


def _likeliest(vote: dict[str, float]) -> str:
    return max(vote, key=lambda code: vote[code])


def _groups(speech: Sequence[Span]) -> Iterator[list[Span]]:
    """Neighbouring spans that are long enough together to tell their language by."""
    group: list[Span] = []
    for span in speech:
        if group and (span.start - group[-1].end > _APART or sum(one.duration for one in group) >= _TELLING):
            yield group
            group = []
        group.append(span)
    if group:
        yield group


def _invented(segment: Segment) -> bool:
    repeated = segment.compression_ratio > _COMPRESSION and segment.avg_logprob < _REPEATED_LOGPROB
    return repeated or segment.avg_logprob < _LOGPROB and segment.no_speech_prob > _NO_SPEECH


def _joined(pieces: Iterable, offset: float) -> Iterator[Word]:
    """The recogniser's pieces as words: one that begins with a sign and no space (",000", ".m.") belongs to the piece before it."""
    word: Word | None = None
    for piece in pieces:
        text, end = piece.word.strip(), round(offset + piece.end, 3)
        if not text:
            continue
        if word and not piece.word[0].isspace() and not piece.word[0].isalnum():
            word = replace(
                word, text=word.text + text, end=max(word.end, end), probability=min(word.probability, round(piece.probability, 3))
            )
            continue
        if word:
            yield from parts_of(word)
        start = round(offset + piece.start, 3)
        word = Word(text, start, max(start + 0.01, end), round(piece.probability, 3))
    if word:
        yield from parts_of(word)


def _cut(sound: np.ndarray, span: Span) -> np.ndarray:
    return np.asarray(sound[int(span.start * RATE) : int(span.end * RATE)])
