"""What a record is made of: plain values, the same for the command line, the server and the formats."""

from __future__ import annotations

from collections.abc import Container, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Any

from core.record.spacing import words_in, written
from core.record.timeline import Span, share_out


@dataclass(frozen=True, slots=True)
class Word:
    """A word: text with its punctuation, seconds, probability 0 to 1, and the label of its voice once told.

    `doubt`: whose it is, is in doubt. `overlap`: somebody else speaks at the same time. `heard`: what the recogniser heard, where the
    word list put a term of the team's in its place. `language`: in which it was said, where the recogniser was told or found out.
    """

    text: str
    start: float
    end: float
    probability: float = 1.0
    voice: str | None = None
    doubt: bool = False
    overlap: bool = False
    heard: str = ""
    language: str = ""

    def packed(self) -> list:
        """As a short list, to be kept: text, start, end, probability, then voice, flags, what was heard, language, as far as there are any."""
        rest = [self.voice, self.doubt + 2 * self.overlap, self.heard, self.language]
        while rest and not rest[-1]:
            rest.pop()
        return [self.text, self.start, self.end, self.probability, *rest]

    @classmethod
    def unpacked(cls, kept: list) -> Word:
        """The word that `packed` made a list of."""
        rest: tuple[Any, ...] = (None, 0, "", "")
        text, start, end, probability, voice, flags, heard, language = [*kept, *rest[len(kept) - 4 :]]
        return cls(text, start, end, probability, voice, bool(flags & 1), bool(flags & 2), heard, language)


@dataclass(frozen=True, slots=True)
class Line:
    """A sentence of a turn: the smallest thing that can be cited. `words` may be empty (a record without word times)."""

    text: str
    start: float
    end: float
    words: tuple[Word, ...] = ()

    @property
    def span(self) -> Span:
        """When it is said."""
        return Span(self.start, self.end)


def parts_of(word: Word) -> tuple[Word, ...]:
    """The word, or, where a listed term of several was put in one's place, each of them; they share out its time by length in characters."""
    said = words_in(word.text)
    if len(said) < 2:
        return (word,)
    shares = share_out(Span(word.start, word.end), said)
    return tuple(replace(word, text=text, start=share.start, end=share.end) for text, share in zip(said, shares, strict=True))


def timed_words(line: Line) -> tuple[Word, ...]:
    """The words of a line as they are counted in its text; where their times are not known they share out the line's."""
    words = line.words or (Word(line.text, line.start, line.end),)
    return tuple(part for word in words for part in parts_of(word) if part.text)


def without(words: Sequence[Word], gone: Container[int]) -> tuple[Word, ...]:
    """Words without some, counted as `timed_words` counts them. Of a term that loses a part the others stay, and not what was heard for all."""
    left: list[Word] = []
    at = 0
    for word in words:
        parts = parts_of(word)
        kept = [part for number, part in enumerate(parts, at) if number not in gone]
        left += [word] if len(kept) == len(parts) else [replace(part, heard="") for part in kept]
        at += len(parts)
    return tuple(left)


@dataclass(frozen=True, slots=True)
class Turn:
    """What one voice says without a break. `id` counts from 1; `speaker` is a name or a voice's label; `english`: the same in English.

    written: it was put into the chat of a call, and not spoken.
    """

    id: int
    speaker: str
    lines: tuple[Line, ...]
    language: str | None = None
    english: str = ""
    written: bool = False

    @property
    def start(self) -> float:
        """Seconds at which the first line starts."""
        return self.lines[0].start

    @property
    def end(self) -> float:
        """Seconds at which the last line ends."""
        return self.lines[-1].end

    @property
    def text(self) -> str:
        """All its lines."""
        return written(line.text for line in self.lines)

    @property
    def words(self) -> tuple[Word, ...]:
        """The words of all its lines."""
        return tuple(word for line in self.lines for word in line.words)


@dataclass(frozen=True, slots=True)
class Participant:
    """Someone who was there."""

    name: str
    role: str = ""


@dataclass(frozen=True, slots=True)
class Record:
    """The speaker-attributed transcript of one meeting. `duration` in seconds; `started_at` is local time.

    `timed` is False where a transcript came without times, so that they are estimates.
    """

    id: str
    turns: tuple[Turn, ...]
    duration: float = 0.0
    language: str | None = None
    started_at: datetime | None = None
    participants: tuple[Participant, ...] = field(default=())
    timed: bool = True

    @property
    def speakers(self) -> list[str]:
        """Everyone who speaks, in the order of their first word."""
        return list(dict.fromkeys(turn.speaker for turn in self.turns))

    @property
    def people(self) -> list[str]:
        """Names of those present: participants first, then speakers who are not among them."""
        return list(dict.fromkeys([p.name for p in self.participants] + self.speakers))

    def renamed(self, names: dict[str, str]) -> Record:
        """The record with voices' labels replaced by names where one is given."""
        return replace(self, turns=tuple(replace(turn, speaker=names.get(turn.speaker, turn.speaker)) for turn in self.turns))
