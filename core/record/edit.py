"""Edits of a record: words replaced without losing their times, lines cut, texts found and replaced."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from difflib import SequenceMatcher

from core.problems import InputProblem
from core.record.model import Line, Word, timed_words, without
from core.record.spacing import words_in, written
from core.record.timeline import Span, share_out


class Misplaced(InputProblem):
    """An edit that cannot be made where it was asked for."""


def replace_words(words: Sequence[Word], first: int, last: int, text: str) -> list[Word]:
    """The words with `first` … `last` replaced by those of a text, which share out their time by length in characters.

    What a person wrote is certain: probability 1, no doubt about it. Raises Misplaced when there are no such words, or none would be left.
    """
    if not 0 <= first <= last < len(words):
        raise Misplaced("There are no such words in this line.")
    fresh = words_in(text)
    if not fresh and last - first + 1 == len(words):
        raise Misplaced("Nothing would be left of this line. Strike it instead.")
    old = words[first : last + 1]
    made = _sharing(old, fresh, old[0].start, old[-1].end, written(word.heard or word.text for word in old))
    return [*words[:first], *made, *words[last + 1 :]]


def realign(line: Line, text: str) -> Line:
    """The line with another text: words that are in both keep their times; those that are new share out the time of those they replace.

    Raises Misplaced when nothing would be left of it.
    """
    fresh = words_in(text)
    if not fresh:
        raise Misplaced("Nothing would be left of this line. Strike it instead.")
    if not line.words:
        return replace(line, text=written(fresh))
    words: list[Word] = []
    old = list(line.words)
    for tag, first, last, begin, end in SequenceMatcher(None, [_bare(w.text) for w in old], [_bare(w) for w in fresh], False).get_opcodes():
        if tag == "equal":
            words += [
                word if word.text == said else replace(word, text=said)
                for word, said in zip(old[first:last], fresh[begin:end], strict=True)
            ]
        elif tag == "insert":
            # New words stand where they were not heard: between the word before and the one after.
            start = old[first - 1].end if first else old[0].start
            stop = old[first].start if first < len(old) else old[-1].end
            words += _sharing([old[max(0, first - 1)]], fresh[begin:end], start, max(start, stop), "")
        elif tag == "replace":
            heard = written(word.heard or word.text for word in old[first:last])
            words += _sharing(old[first:last], fresh[begin:end], old[first].start, old[last - 1].end, heard)
    return replace(line, text=written(fresh), words=tuple(words))


def cut_line(line: Line, word: int) -> tuple[Line, Line]:
    """A line as two, the second beginning with a word (from 0). Raises Misplaced where that leaves one of them empty."""
    said = timed_words(line)
    if not 0 < word < len(said):
        raise Misplaced("A line is cut between two of its words.")
    first, second = said[:word], said[word:]
    texts = [written(one.text for one in part) for part in (first, second)]
    if not line.words:
        return Line(texts[0], line.start, round(second[0].start, 3)), Line(texts[1], round(second[0].start, 3), line.end)
    return (
        Line(texts[0], line.start, round(max(line.start, first[-1].end), 3), without(line.words, range(word, len(said)))),
        Line(texts[1], round(second[0].start, 3), line.end, without(line.words, range(word))),
    )


@dataclass(frozen=True, slots=True)
class Hit:
    """A place where a text is found: which line (from 0), from and up to which character of it."""

    line: int
    start: int
    end: int


def find_text(lines: Sequence[str], text: str, *, whole_words: bool = True, match_case: bool = False) -> list[Hit]:
    """Every place where a text stands in lines, in order. Raises Misplaced for a text without a sign."""
    if not text.strip():
        raise Misplaced("Say what to look for.")
    edge_before = r"(?<!\w)" if whole_words and text[:1].isalnum() else ""
    edge_after = r"(?!\w)" if whole_words and text[-1:].isalnum() else ""
    pattern = re.compile(edge_before + re.escape(text) + edge_after, 0 if match_case else re.IGNORECASE)
    return [Hit(number, found.start(), found.end()) for number, line in enumerate(lines) for found in pattern.finditer(line)]


def replaced(line: str, hits: Sequence[Hit], by: str) -> str:
    """A line with the text at some places replaced, white space folded."""
    for hit in sorted(hits, key=lambda one: -one.start):
        line = line[: hit.start] + by + line[hit.end :]
    return written(words_in(line))


def _bare(text: str) -> str:
    return re.sub(r"^\W+|\W+$", "", text).casefold()


def _sharing(old: Sequence[Word], fresh: Sequence[str], start: float, end: float, heard: str) -> list[Word]:
    """Words of a person's, certain, that share out a time by their length in characters; `heard` is what they stand for."""
    shares = share_out(Span(start, end), fresh)
    return [
        replace(old[0], text=word, start=share.start, end=share.end, probability=1.0, doubt=False, heard=heard)
        for word, share in zip(fresh, shares, strict=True)
    ]
