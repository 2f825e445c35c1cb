"""Words → whose voice says each: the likeliest path through the voices, where changing voice costs something."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from core.record.assemble import relabel_by_order
from core.record.model import Word
from core.record.sentences import ends_sentence
from core.record.timeline import Span
from core.voices.cluster import find_voices, smooth
from core.voices.embedding import VoiceEmbedding

# The price of a change of voice, in units of cosine, by where it would fall.
_CHANGE_INSIDE, _CHANGE_AT_SENTENCE, _CHANGE_AT_PAUSE = 1.2, 0.35, 0.1
_PAUSE = 0.3  # seconds
_REACH = 0.45  # seconds around a word from which its voice is taken


@dataclass(frozen=True, slots=True)
class Told:
    """Words, each with its voice's label; what each voice sounds like (label → vector of length 1)."""

    words: tuple[Word, ...]
    voices: dict[str, np.ndarray]


def tell_apart(
    words: Sequence[Word], sound: np.ndarray, speech: Sequence[Span], embedding: VoiceEmbedding, voices: int | None = None
) -> Told:
    """Give each word to a voice, labelled A, B, C … in the order in which they are first heard.

    sound: int16, shape (samples,), 16 kHz. speech: voice activity in order. voices: their number where it is known.
    """
    if not words:
        return Told((), {})
    centres, vectors = embedding.windows(sound, speech)
    if len(centres) == 0:
        return Told(tuple(relabel_by_order(words)), {})
    smoothed = smooth(centres, vectors)
    centroids = find_voices(smoothed, voices)
    path = _path(words, centres, smoothed, centroids)
    told = relabel_by_order([replace(word, voice=str(voice)) for word, voice in zip(words, path, strict=True)])
    labels = {word.voice: centroids[voice] for word, voice in zip(told, path, strict=True)}
    return Told(tuple(told), labels)


def _path(words: Sequence[Word], centres: np.ndarray, vectors: np.ndarray, centroids: np.ndarray) -> list[int]:
    """Viterbi's algorithm over words; likeness is the mean cosine of the windows around a word."""
    likeness = vectors @ centroids.T
    score = np.zeros(len(centroids))
    back: list[np.ndarray] = []
    for index, word in enumerate(words):
        seen = _likeness_at(word, centres, likeness)
        if index:
            price = _price(words[index - 1], word)
            best = score.argmax()
            stay = score >= score[best] - price
            back.append(np.where(stay, np.arange(len(score)), best))
            score = np.where(stay, score, score[best] - price)
        score = score + seen
    path = [int(score.argmax())]
    for step in reversed(back):
        path.append(int(step[path[-1]]))
    return path[::-1]


def _likeness_at(word: Word, centres: np.ndarray, likeness: np.ndarray) -> np.ndarray:
    middle = (word.start + word.end) / 2
    reach = max(_REACH, (word.end - word.start) / 2)
    first, last = np.searchsorted(centres, [middle - reach, middle + reach])
    if first == last:
        nearest = np.abs(centres - middle).argmin()
        return likeness[nearest]
    return likeness[first:last].mean(axis=0)


def _price(before: Word, word: Word) -> float:
    if word.start - before.end >= _PAUSE:
        return _CHANGE_AT_PAUSE
    return _CHANGE_AT_SENTENCE if ends_sentence(before.text) else _CHANGE_INSIDE
