"""What a sentence is made of and held to: the lines that a sentence is to rest on, what is said around them, who is there and when."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Literal

from core.reading.base import first_name

Kind = Literal["decision", "action", "question", "gist", "chapter"]

HEADS: dict[Kind, str] = {"decision": "Decision", "action": "Action", "question": "Open question", "gist": "In short", "chapter": "Title"}
BEFORE, AFTER = 3, 1
"""Turns around evidence that are given with it: most of what "that" and "it" stand for is a turn or two earlier."""
MOST_TURNS, MOST_WORDS, MOST_NAMES = 18, 210, 10
_EVIDENCE, _AROUND, _LEFT_OUT, _ASK = "* ", "  ", "  …\n", ">"


@dataclass(frozen=True, slots=True)
class Piece:
    """A turn, or what is shown of it; `evidence`: the sentence is to rest on it; `at`: its place among the turns."""

    speaker: str
    text: str
    evidence: bool
    at: int


@dataclass(frozen=True, slots=True)
class Passage:
    """Evidence with its surroundings, in order. `on`: the meeting's day. `owner`: whose an action is, where that is known."""

    kind: Kind
    pieces: tuple[Piece, ...]
    present: tuple[str, ...]
    on: date | None = None
    owner: str | None = None

    @property
    def text(self) -> str:
        """What the model reads, ending where its sentence is to begin."""
        shown = _shown(self.present)
        head = [HEADS[self.kind] + (f" for {self.owner}" if self.owner else "")]
        if self.on:
            head.append(f"{self.on:%A} {self.on.day} {self.on:%B %Y}")
        if self.present:
            head.append("Present: " + ", ".join(self.present[:MOST_NAMES]))
        parts, last = [". ".join(head) + ".\n"], None
        for piece in self.pieces:
            if last is not None and piece.at > last + 1:
                parts.append(_LEFT_OUT)
            parts.append(f"{_EVIDENCE if piece.evidence else _AROUND}{shown.get(piece.speaker, piece.speaker)}: {piece.text}\n")
            last = piece.at
        return "".join(parts) + _ASK


def passage(
    kind: Kind,
    turns: Sequence[tuple[str, str]],
    evidence: Collection[int],
    present: Sequence[str],
    on: date | None = None,
    owner: str | None = None,
) -> Passage:
    """Cut a passage from a meeting's turns, (speaker, text) each, around the turns whose places are in `evidence`.

    What is said around the evidence is given as far as there is room, nearest first; evidence always, cut where a turn is endless. A title
    is written from its turns alone.
    """
    before, after = (0, 0) if kind == "chapter" else (BEFORE, AFTER)
    around = {at for one in evidence for at in range(one - before, one + after + 1) if 0 <= at < len(turns)}
    near = {at: min(abs(at - one) for one in evidence) for at in around}
    kept, room = [], MOST_WORDS
    for at in sorted(near, key=lambda at: (at not in evidence, near[at], -at))[:MOST_TURNS]:
        words = turns[at][1].split()
        if at not in evidence and len(words) > room:
            continue
        words = words[: max(room, 12)]
        room -= len(words)
        kept.append(Piece(turns[at][0], " ".join(words), at in evidence, at))
    return Passage(kind, tuple(sorted(kept, key=lambda piece: piece.at)), tuple(dict.fromkeys(present)), on, owner)


STAND_INS = ("alex", "robin", "chris", "kim", "terry", "lee", "pat", "max", "jamie", "sam", "kelly", "morgan")
"""What people are called for the encoder, which knows these words; of most names it knows syllables alone."""


def under_other_names(cut: Passage, stand_ins: Sequence[str] = STAND_INS) -> Callable[[str], str]:
    """Puts the people of a passage under other names, in the order in which they speak."""
    people = list(dict.fromkeys([*(piece.speaker for piece in cut.pieces), *cut.present, *([cut.owner] if cut.owner else [])]))
    known = {name: word for name, word in zip(people, stand_ins, strict=False) if name.strip()}
    called = known | {first_name(name): word for name, word in reversed(known.items())} | known
    names = re.compile("|".join(rf"\b{re.escape(name)}(?!\w)" for name in sorted(called, key=len, reverse=True)) or r"(?!)")
    return lambda text: names.sub(lambda match: called[match[0]], text)


def _shown(people: Sequence[str]) -> dict[str, str]:
    """First names, where only one person has it: shorter, and as people call each other."""
    first = {name: name.split()[0] for name in people if name.split()}
    count = Counter(first.values())
    return {name: short if count[short] == 1 else name for name, short in first.items()}
