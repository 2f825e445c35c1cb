"""Words and runs → whose voice says each word: the likeliest path through the voices, where changing voice costs something."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from core.media.tracks import track_at
from core.record.assemble import relabel_by_order
from core.record.model import Word
from core.record.sentences import ends_sentence
from core.record.timeline import Span, merge
from core.voices.cluster import find_voices, likeness
from core.voices.listen import Run, at_once

# The price of a change of voice, in units of cosine, by where it would fall.
_CHANGE_INSIDE, _CHANGE_AT_SENTENCE, _CHANGE_AT_PAUSE = 0.9, 0.2, 0.05
_PAUSE = 0.3  # seconds
_STEP = 0.02  # seconds of a frame of likeness
_TELLING = 0.5  # seconds of clear sound that say all there is to say of a voice
_MARGIN = 0.05  # seconds around a word in which its voice is sought: the recogniser's times are rough
# A word for which two voices are this near is in doubt.
_NEAR = 0.06
_OVERLAP = 0.25  # seconds; shorter is the seam of two turns


@dataclass(frozen=True, slots=True)
class Told:
    """Words, each with its voice's label; what each voice sounds like (label → vector of length 1); label → track, where tracks are separate."""

    words: tuple[Word, ...]
    voices: dict[str, np.ndarray]
    tracks: dict[str, int] = field(default_factory=dict)


def tell_apart(words: Sequence[Word], runs: Sequence[Run], voices: int | None = None, tracks: str = "", one_each: bool = False) -> Told:
    """Give each word to a voice, labelled A, B, C … in the order in which they are first heard.

    words, runs: in order of time. voices: their number where it is known. tracks: where the sound has separate ones, which of them is
    spoken into (`core.media.tracks`); one_each: and each of them is one person's, so that nothing is left to be guessed.
    """
    if not words:
        return Told((), {})
    if tracks:
        return _by_track(words, runs, tracks, one_each)
    centroids = find_voices(runs, voices)
    if len(centroids) == 0:
        return Told(tuple(relabel_by_order(words)), {})
    alike = likeness(runs, centroids)
    frames = _frames(words[-1].end, runs, alike)
    seen = np.stack([_seen(word, frames) for word in words])
    path = _path(words, seen)
    both = _overlaps(runs, alike.argmax(axis=1))
    told = relabel_by_order(
        [
            replace(word, voice=str(voice), doubt=_doubtful(likely, voice), overlap=_within(word, both))
            for word, likely, voice in zip(words, seen, path, strict=True)
        ]
    )
    return Told(tuple(told), {str(word.voice): centroids[voice] for word, voice in zip(told, path, strict=True)})


def _by_track(words: Sequence[Word], runs: Sequence[Run], tracks: str, one_each: bool) -> Told:
    """Voices told apart inside each track; nobody is heard in two."""
    spoken_into: list[int] = []
    for word in words:
        found = track_at(tracks, word.start, word.end)
        spoken_into.append(found if found is not None else spoken_into[-1] if spoken_into else 0)
    whose: list[Word | None] = [None] * len(words)
    sounds: dict[str, np.ndarray] = {}
    for track in set(spoken_into):
        places = [index for index, one in enumerate(spoken_into) if one == track]
        inside = [run for run in runs if track_at(tracks, run.start, run.end) == track]
        told = tell_apart([words[index] for index in places], inside, 1 if one_each else None)
        for index, word in zip(places, told.words, strict=True):
            whose[index] = replace(word, voice=f"{track} {word.voice}", doubt=word.doubt and not one_each)
        sounds |= {f"{track} {label}": vector for label, vector in told.voices.items()}
    given = [word for word in whose if word]
    relabelled = relabel_by_order(given)
    names = {str(before.voice): str(after.voice) for before, after in zip(given, relabelled, strict=True)}
    into = {str(word.voice): track for word, track in zip(relabelled, spoken_into, strict=True)}
    return Told(tuple(relabelled), {names[label]: vector for label, vector in sounds.items() if label in names}, into)


def _frames(until: float, runs: Sequence[Run], alike: np.ndarray) -> np.ndarray:
    """How like each voice the sound is at each moment, shape (frames, k); 0 where nobody speaks, the most where several do."""
    end = max([until, *(run.end for run in runs)]) + 1
    frames = np.zeros((int(end / _STEP) + 1, alike.shape[1]), np.float32)
    for run, row in zip(runs, alike * _weight(runs)[:, None], strict=True):
        part = frames[int(run.start / _STEP) : int(run.end / _STEP) + 1]
        np.maximum(part, row, out=part)
    return frames


def _weight(runs: Sequence[Run]) -> np.ndarray:
    """A short run says little of its voice, shape (runs,)."""
    return np.array([min(1.0, max(run.clear, 0.1) / _TELLING) for run in runs])


def _seen(word: Word, frames: np.ndarray) -> np.ndarray:
    first = int(max(0.0, word.start - _MARGIN) / _STEP)
    return frames[first : max(first + 1, int((word.end + _MARGIN) / _STEP))].mean(axis=0)


def _path(words: Sequence[Word], seen: np.ndarray) -> list[int]:
    """Viterbi's algorithm over words."""
    score = seen[0].copy()
    back: list[np.ndarray] = []
    for index in range(1, len(words)):
        price = _price(words[index - 1], words[index])
        best = score.argmax()
        stay = score >= score[best] - price
        back.append(np.where(stay, np.arange(len(score)), best))
        score = np.where(stay, score, score[best] - price) + seen[index]
    path = [int(score.argmax())]
    for step in reversed(back):
        path.append(int(step[path[-1]]))
    return path[::-1]


def _price(before: Word, word: Word) -> float:
    if word.start - before.end >= _PAUSE:
        return _CHANGE_AT_PAUSE
    return _CHANGE_AT_SENTENCE if ends_sentence(before.text) else _CHANGE_INSIDE


def _doubtful(likely: np.ndarray, voice: int) -> bool:
    others = np.delete(likely, voice)
    return bool(len(others) and likely[voice] - others.max() < _NEAR)


def _within(word: Word, spans: Sequence[Span]) -> bool:
    """Is at least half of a word inside the spans?"""
    span = Span(word.start, word.end)
    return sum((span & other).duration for other in spans) >= span.duration / 2


def _overlaps(runs: Sequence[Run], whose: np.ndarray) -> list[Span]:
    """Where runs of different voices meet, in order."""
    found = [span for index, other, span in at_once(runs) if whose[other] != whose[index]]
    return [span for span in merge(found) if span.duration >= _OVERLAP]
