"""What a strike takes out of a record: which words, what is left of each line, which seconds fall silent, and who quotes it."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from core.problems import InputProblem
from core.reading.words import STOP
from core.record.model import Line, Record, Word, timed_words, without
from core.record.spacing import UNSPACED, words_in, written
from core.record.timeline import Span, merge

MARGIN = 0.15
"""Seconds that fall silent around struck words: the times of recognised words are some hundredths off (measured on the demo)."""
_REACH = 0.5  # seconds before and after, as far as nobody else's words are there: breath and the tail of a sound

Gone = Mapping[int, frozenset[int]]
"""Index of a line among all of the record (from 0) → the indexes of its words that go."""


class Unstrikable(InputProblem):
    """A strike that takes nothing, or everything."""


@dataclass(frozen=True, slots=True)
class Cut:
    """`lines`: index of a line → what is left of it, None where nothing is. `words`: how many go. `spans`: what falls silent.
    `runs`: the struck words themselves, run by run, to find who quotes them; never to be kept."""

    lines: Mapping[int, Line | None]
    words: int
    spans: tuple[Span, ...]
    runs: tuple[tuple[str, ...], ...]

    @property
    def seconds(self) -> float:
        """How long it is silent."""
        return sum(span.duration for span in self.spans)


def between_words(lines: Sequence[Line], first: tuple[int, int], last: tuple[int, int]) -> Gone:
    """From a word of a line to a word of the same or a later one, both included: (index of the line, index of the word), -1 for its last.

    Raises Unstrikable where there are no such words.
    """
    gone = {}
    for index in range(first[0], last[0] + 1):
        count = len(timed_words(lines[index])) if 0 <= index < len(lines) else 0
        start = first[1] if index == first[0] else 0
        end = last[1] % count if count and index == last[0] and -count <= last[1] < count else count - 1
        gone[index] = frozenset(range(start, end + 1))
        if not count or not gone[index] or start < 0 or index == last[0] and last[1] >= count:
            raise Unstrikable("There are no such words in this record. Look at it again, and choose anew.")
    if not gone:
        raise Unstrikable("Choose words from the first that goes to the last.")
    return gone


def within_span(lines: Sequence[Line], span: Span) -> Gone:
    """All words of which a part is said between two seconds. Raises Unstrikable for a span without length."""
    if span.duration <= 0:
        raise Unstrikable("A span of time ends after it starts.")
    return {
        index: inside
        for index, line in enumerate(lines)
        if line.span.overlaps(span)
        and (inside := frozenset(number for number, word in enumerate(timed_words(line)) if Span(word.start, word.end).overlaps(span)))
    }


def of_voice(record: Record, speaker: str) -> Gone:
    """All words of a voice."""
    said = [(turn, line) for turn in record.turns for line in turn.lines]
    return {index: frozenset(range(len(timed_words(line)))) for index, (turn, line) in enumerate(said) if turn.speaker == speaker}


def cut(lines: Sequence[Line], gone: Gone, also: Iterable[Span] = (), *, whole: bool = False) -> Cut:
    """Take words out of the lines of a record. also: spans that fall silent whatever was said in them. whole: all of it may go.

    What is left of a line keeps its words' times. Raises Unstrikable when nothing or, where that may not be, all of the record goes.
    """
    words = [timed_words(line) for line in lines]
    struck = [(index, number) for index in sorted(gone) for number in sorted(gone[index])]
    also = tuple(also)
    if not struck and not also:
        raise Unstrikable("Nothing is said there, so there is nothing to strike.")
    if struck and not whole and len(struck) == sum(map(len, words)):
        raise Unstrikable("That is the whole record. Take the meeting out of the library instead, and delete it there; then all of it goes.")
    left = {index: _left(lines[index], words[index], gone[index]) for index in gone}
    places = [(index, number) for index, row in enumerate(words) for number in range(len(row))]
    spans, runs = list(also), []
    for first, end in _runs(places, set(struck)):
        run = [words[index][number] for index, number in places[first:end]]
        before = words[places[first - 1][0]][places[first - 1][1]].end if first else 0.0
        after = words[places[end][0]][places[end][1]].start if end < len(places) else float("inf")
        # Only ever outwards: a neighbour's times may reach into the struck words.
        spans.append(Span(
            max(0.0, min(run[0].start - MARGIN, max(before, run[0].start - _REACH))),
            max(run[-1].end + MARGIN, min(after, run[-1].end + _REACH)),
        ))  # fmt: skip
        runs.append(tuple(word.text for word in run))
        runs += [tuple(words_in(word.heard)) for word in run if word.heard]
    return Cut(left, len(struck), tuple(merge(spans)), tuple(runs))


def _left(line: Line, words: Sequence[Word], gone: frozenset[int]) -> Line | None:
    kept = without(line.words or words, gone)
    if not kept:
        return None
    # An untimed line keeps its own times; its words' are only guesses.
    start, end = (kept[0].start, kept[-1].end) if line.words else (line.start, line.end)
    return replace(line, text=written(word.text for word in kept), start=start, end=end, words=kept if line.words else ())


def _runs(places: Sequence, struck: set) -> Iterator[tuple[int, int]]:
    """Stretches next to each other that are all struck: [first, one past the last] among all places."""
    first = None
    for at, place in enumerate([*places, None]):
        if place in struck:
            first = at if first is None else first
        elif first is not None:
            yield first, at
            first = None


BLANK = "[struck]"
"""What stands in people's own words where they quoted what was struck."""
_TOKEN = re.compile(rf"{UNSPACED}|(?:(?!{UNSPACED})\w)+(?:['’]\w+)*")
_RUN, _SAYING = 3, 2
"""So many words in a row make a quotation where at least so many of all that follow each other say something."""
_SAYING_FAR = 4
"""In what was written elsewhere, of something else: a phrase of everyday life is no quotation there."""


class Quotes:
    """Finds in other texts what was struck."""

    def __init__(self, cut: Cut) -> None:
        self._grams: set[tuple[str, ...]] = set()
        self._whole: set[tuple[str, ...]] = set()
        for run in cut.runs:
            tokens = [token for word in run for token in _tokens(word)]
            self._grams |= {tuple(tokens[at : at + _RUN]) for at in range(len(tokens) - _RUN + 1)}
            if 0 < len(tokens) <= _RUN and _says(tokens):
                self._whole.add(tuple(tokens))

    def blanked(self, text: str, *, near: bool = False, far: bool = False) -> str:
        """The text with what it quotes replaced by BLANK; the same text where it quotes nothing.

        near: it stands with the struck passage, so that one or two words which are all of it are a quotation as well. far: it was written
        of something else, so that only what says more, or makes up half of a short text such as a title, is a quotation.
        """
        found = list(_TOKEN.finditer(text))
        tokens = [_plain(match[0]) for match in found]
        hit = _covered(tokens, self._grams, (_RUN,))
        for first, end in _runs(range(len(tokens)), {at for at in range(len(tokens)) if hit[at]}):
            wanted = _SAYING_FAR if far and 2 * (end - first) < len(tokens) else _SAYING
            if _says(tokens[first:end]) < wanted:
                hit[first:end] = [False] * (end - first)
        if near:
            hit = [one or other for one, other in zip(hit, _covered(tokens, self._whole, (1, 2, 3)), strict=True)]
        pieces, until = [], 0
        for at, match in enumerate(found):
            if hit[at] and (at == 0 or not hit[at - 1]):
                pieces += [text[until : match.start()], BLANK]
            if hit[at]:
                until = match.end()
        return "".join([*pieces, text[until:]])



def _covered(tokens: Sequence[str], known: set[tuple[str, ...]], sizes: Sequence[int]) -> list[bool]:
    """Which tokens are part of a known sequence."""
    hit = [False] * len(tokens)
    for size in sizes:
        for at in range(len(tokens) - size + 1):
            if tuple(tokens[at : at + size]) in known:
                hit[at : at + size] = [True] * size
    return hit


def _plain(token: str) -> str:
    return token.lower().replace("’", "'")


def _tokens(text: str) -> list[str]:
    return [_plain(match[0]) for match in _TOKEN.finditer(text)]


def _says(tokens: Sequence[str]) -> int:
    """How many of the words say something."""
    return sum(token not in STOP for token in tokens)
