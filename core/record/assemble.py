"""Words with voices → turns and lines."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from core.record.model import Line, Turn, Word
from core.record.sentences import ends_sentence, split_sentences
from core.record.spacing import words_in, written
from core.record.timeline import Span, share_out

# A voice that goes on after this much silence (seconds) starts a new turn; without it a monologue would be one turn of an hour.
TURN_BREAK = 3.0
# A sentence the recogniser never ends is cut at a pause this long once it has this many words.
LINE_PAUSE, LINE_WORDS = 0.8, 30
# And in any case here: what is longer is nobody's sentence, and can be neither read nor set in type.
LONGEST_LINE = 250


def lines_of(words: Sequence[Word]) -> tuple[Line, ...]:
    """Words of one turn cut into sentences with the times of their words."""
    lines: list[list[Word]] = [[]]
    for word, following in zip(words, [*words[1:], None], strict=True):
        lines[-1].append(word)
        pause = following.start - word.end if following else 0.0
        so_long = len(lines[-1])
        if following and (ends_sentence(word.text) or pause >= LINE_PAUSE and so_long >= LINE_WORDS or so_long >= LONGEST_LINE):
            lines.append([])
    return tuple(Line(written(word.text for word in line), line[0].start, line[-1].end, tuple(line)) for line in lines)


def assemble(words: Iterable[Word], language: str | None = None) -> tuple[Turn, ...]:
    """Turns, numbered from 1, from words in order of time, each word with the label of its voice ("A" where none).

    A turn is in one language: the words' own, or `language` where they do not say.
    """
    turns: list[list[Word]] = []
    for word in words:
        last = turns[-1][-1] if turns else None
        if (
            last is None
            or (word.voice or "A") != (last.voice or "A")
            or word.language != last.language
            or word.start - last.end > TURN_BREAK
        ):
            turns.append([])
        turns[-1].append(word)
    return tuple(
        Turn(index, turn[0].voice or "A", lines_of(turn), turn[0].language or language) for index, turn in enumerate(turns, start=1)
    )


def lines_from_text(text: str, start: float, end: float) -> tuple[Line, ...]:
    """Sentences of a turn known only as text; their times share out the turn's by length in characters."""
    sentences = [part for sentence in split_sentences(text) for part in _short(sentence)]
    shares = share_out(Span(start, end), sentences)
    return tuple(Line(sentence, share.start, share.end) for sentence, share in zip(sentences, shares, strict=True))


def _short(sentence: str) -> list[str]:
    words = words_in(sentence)
    if len(words) <= LONGEST_LINE:
        return [sentence]
    return [written(words[at : at + LONGEST_LINE]) for at in range(0, len(words), LONGEST_LINE)]


def turns_from_cues(cues: Iterable[tuple[str, float, float, str]], longest_gap: float = 2.0) -> tuple[Turn, ...]:
    """Turns from (speaker, start, end, text): neighbouring cues of one speaker are one turn while the gap is short."""
    turns: list[list[tuple[str, float, float, str]]] = []
    for cue in cues:
        if turns and turns[-1][-1][0] == cue[0] and cue[1] - turns[-1][-1][2] <= longest_gap:
            turns[-1].append(cue)
        else:
            turns.append([cue])
    made: list[Turn] = []
    for turn in turns:
        lines = [line for _, start, end, text in turn for line in lines_from_text(text, start, end)]
        if lines:
            made.append(Turn(len(made) + 1, turn[0][0], tuple(lines)))
    return tuple(made)


WRITTEN = 0.05
"""Seconds that a message in a chat takes in a record: it has a place there, and no sound."""


def with_written(turns: Sequence[Turn], messages: Sequence[tuple[float, str, str]]) -> tuple[Turn, ...]:
    """Turns with what was written into the chat meanwhile, in order of time, numbered from 1. messages: second, name, text.

    A message that comes while somebody speaks stands behind that turn.
    """
    chat = [Turn(0, name, lines_from_text(text, at, at + WRITTEN), written=True) for at, name, text in messages if text.strip()]
    merged = sorted([*turns, *chat], key=lambda turn: turn.start)
    return tuple(replace(turn, id=number) for number, turn in enumerate(merged, start=1))


def relabel_by_order(words: Sequence[Word]) -> list[Word]:
    """The same words with voices named A, B, C … in the order in which they are first heard."""
    order = {label: index for index, label in enumerate(dict.fromkeys(word.voice for word in words))}
    return [replace(word, voice=voice_label(order[word.voice])) for word in words]


def voice_label(index: int) -> str:
    """0 → A, 25 → Z, 26 → AA."""
    label = ""
    index += 1
    while index:
        index, rest = divmod(index - 1, 26)
        label = chr(65 + rest) + label
    return label
