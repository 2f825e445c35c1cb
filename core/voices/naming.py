"""Who a voice may be: who introduces themselves, and who is addressed by name and then answers. A proposal, with its lines."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from core.record.model import Line, Record, Turn

# What speaks for and against a voice being somebody, in the order of what it says.
_INTRODUCED, _ANSWERED, _ADDRESSED_BY = 3.0, 1.0, -1.5
_ENOUGH, _CLEARLY = 2.0, 1.0  # a proposal needs so much, and so much more than the next best
_SOON = 4.0  # seconds within which an answer comes
_INTRODUCTION = re.compile(
    r"\b(?:i'm|i am|this is|my name is|my name's|soy|me llamo|je suis|je m'appelle|ich bin|ich heiße)\s+(\w[\w'’-]+)|\b(\w[\w'’-]+) (?:here|speaking)\b",
    re.I,
)


@dataclass(frozen=True, slots=True)
class NameProposal:
    """That a voice (by its label) is somebody; `lines` say so, most telling first."""

    voice: str
    name: str
    lines: tuple[Line, ...]


def propose_names(record: Record, voices: Sequence[str], names: Sequence[str]) -> list[NameProposal]:
    """Proposals for the voices that are not named yet. names: those who were there and have no voice yet; first names are listened for."""
    first = {name.split()[0].casefold(): name for name in names if name.strip()}
    score: dict[tuple[str, str], float] = defaultdict(float)
    lines: dict[tuple[str, str], list[tuple[float, Line]]] = defaultdict(list)

    def count(voice: str, name: str, weight: float, line: Line) -> None:
        score[voice, name] += weight
        if weight > 0:
            lines[voice, name].append((-weight, line))

    for turn, after in zip(record.turns, [*record.turns[1:], None], strict=True):
        for line in turn.lines:
            for match in _INTRODUCTION.finditer(line.text):
                if name := first.get((match[1] or match[2]).casefold()):
                    count(turn.speaker, name, _INTRODUCED, line)
            for key, name in first.items():
                if _addresses(line.text, key):
                    score[turn.speaker, name] += _ADDRESSED_BY
        if after and after.speaker != turn.speaker and after.start - turn.end < _SOON:
            for line, key in _asked(turn, first):
                count(after.speaker, first[key], _ANSWERED, line)
    return _assigned(voices, list(first.values()), score, lines)


def _addresses(text: str, name: str) -> bool:
    """Is somebody called by this name: "Tobias, where …", "… do you, Tobias?", "Okay, Tobias, then …"?"""
    return bool(re.search(rf"(?:^|[,.?!]\s*){re.escape(name)}\s*(?:[,?!.]|$)", text, re.I))


def _asked(turn: Turn, names: dict[str, str]) -> list[tuple[Line, str]]:
    """The lines at the end of a turn that call somebody by name: whoever speaks next was meant."""
    return [(line, key) for line in turn.lines[-3:] for key in names if _addresses(line.text, key)]


def _assigned(
    voices: Sequence[str], names: Sequence[str], score: Mapping[tuple[str, str], float], lines: Mapping[tuple[str, str], list[tuple[float, Line]]]
) -> list[NameProposal]:
    if not voices or not names:
        return []
    from scipy.optimize import linear_sum_assignment  # a quarter of a second to load, which every process would wait for

    table = np.array([[score.get((voice, name), 0.0) for name in names] for voice in voices])
    proposals = []
    for row, column in zip(*linear_sum_assignment(-table), strict=True):
        best = table[row, column]
        others = max([*np.delete(table[row], column), *np.delete(table[:, column], row), 0.0])
        if best >= _ENOUGH and best - others >= _CLEARLY:
            voice, name = voices[row], names[column]
            said = [line for _, line in sorted(lines[voice, name], key=lambda pair: (pair[0], pair[1].start))]
            proposals.append(NameProposal(voice, name, tuple(said[:3])))
    return proposals
