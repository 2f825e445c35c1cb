"""Airtime: who spoke how much, and how it was shared. Plain figures, each with its definition; no judgement."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from core.record.model import Record, Turn
from core.record.spacing import words_in
from core.record.timeline import Span, merge

_NEAR = 0.5  # seconds by which a turn begins before the one before it ends, from which it breaks in
_SHORT = 3  # words of a turn that is a word of assent and no interruption

DEFINITIONS = {
    "seconds": "time from the first to the last word of each turn, added up",
    "share": "of all speaking time",
    "turns": "stretches without another voice between",
    "longest": "seconds of the longest turn",
    "pace": "words a minute while speaking",
    "questions": "lines that end with a question mark",
    "interruptions": f"turns of more than {_SHORT} words that begin at least {_NEAR} s before the one before them ends",
    "silence": "time in which nobody speaks, between the first word and the last",
}
"""What each figure counts."""


@dataclass(frozen=True, slots=True)
class Air:
    """One person's."""

    speaker: str
    seconds: float
    share: float
    turns: int
    longest: float
    pace: float
    questions: int
    interruptions: int


@dataclass(frozen=True, slots=True)
class Airtime:
    """Everyone's, the one who spoke most first; `spoken` and `silence` in seconds, over the stretch `whole`."""

    people: tuple[Air, ...]
    whole: Span
    spoken: float
    silence: float


def airtime(record: Record, part: Span | None = None) -> Airtime:
    """The figures of a record, or of what is said in a part of it (a turn counts where it begins)."""
    turns = [turn for turn in record.turns if not turn.written and (part is None or part.start <= turn.start < part.end)]
    if not turns:
        # Nobody speaks there, and however long it is said to be, it has no stretch of talk.
        start = part.start if part else 0.0
        return Airtime((), Span(start, start), 0.0, 0.0)
    joined = _joined(turns)
    seconds = {
        speaker: sum(turn.end - turn.start for turn in turns if turn.speaker == speaker)
        for speaker in dict.fromkeys(t.speaker for t in turns)
    }
    total = sum(seconds.values())
    people = []
    for speaker, spoken in seconds.items():
        own = [turn for turn in turns if turn.speaker == speaker]
        mine = [group for group in joined if group[0].speaker == speaker]
        words = sum(len(words_in(turn.text)) for turn in own)
        people.append(
            Air(
                speaker,
                spoken,
                spoken / total if total else 0.0,
                len(mine),
                max(group[-1].end - group[0].start for group in mine),
                60 * words / spoken if spoken else 0.0,
                sum(line.text.rstrip().endswith("?") for turn in own for line in turn.lines),
                sum(_breaks_in(before, turn) for before, turn in zip(turns, turns[1:], strict=False) if turn.speaker == speaker),
            )
        )
    whole = Span(min(turn.start for turn in turns), max(turn.end for turn in turns))
    covered = sum(span.duration for span in merge(Span(turn.start, turn.end) for turn in turns))
    return Airtime(tuple(sorted(people, key=lambda one: (-one.seconds, one.speaker))), whole, total, whole.duration - covered)


def _joined(turns: Sequence[Turn]) -> list[list[Turn]]:
    """Turns of one voice in a row are one turn."""
    groups: list[list[Turn]] = []
    for turn in turns:
        if groups and groups[-1][0].speaker == turn.speaker:
            groups[-1].append(turn)
        else:
            groups.append([turn])
    return groups


def _breaks_in(before: Turn, turn: Turn) -> bool:
    return before.speaker != turn.speaker and turn.start <= before.end - _NEAR and len(words_in(turn.text)) > _SHORT
