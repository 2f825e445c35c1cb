"""A matter: one decision or one action, and what became of it, meeting by meeting."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import date
from enum import StrEnum
from typing import Literal

MatterKind = Literal["decision", "action"]
_FEW, _LONG = 7, 48
"""Words, and signs, of a subject."""
_LINKS = frozenset("a an the of to by for with at in on and or but that from so if".split())
_HEAD = re.compile(r"^[^\W\d_][\w'’-]* to (?=[a-z])")


class StepKind(StrEnum):
    """What a meeting does with a matter."""

    MADE = "made"
    CHANGED = "changed"
    CARRIED = "carried"
    DONE = "done"
    DROPPED = "dropped"


CLOSING = frozenset({StepKind.DONE, StepKind.DROPPED})
"""After these a matter is not looked for any more."""


@dataclass(frozen=True, slots=True)
class Step:
    """What one meeting does. `turns`: ids of the turns it rests on; `text`, `owner`, `due`: how the matter stands after it (the last two of
    actions alone); `confidence`: 0 to 1."""

    meeting: str
    kind: StepKind
    turns: tuple[int, ...]
    text: str
    owner: str | None
    due: date | None
    confidence: float


@dataclass(frozen=True, slots=True)
class Matter:
    """Its steps in order of time; the first one is that by which it was made."""

    kind: MatterKind
    steps: tuple[Step, ...]

    @property
    def stands(self) -> bool:
        """Does a decision hold, is an action still to be done?"""
        return self.steps[-1].kind not in CLOSING

    @property
    def subject(self) -> str:
        """What it is about, in a few words of its first step."""
        return subject_of(self.steps[0].text)


@dataclass(frozen=True, slots=True)
class Open:
    """A matter before a meeting. `text`: how it stands; `said`: the words it rests on, of all its steps; `around`: those
    with what is said just before and after them, where its subject is named as often as not; `since`: how many meetings ago it
    was last spoken of, 1 for the one before; `sure`: how sure it is that it was settled or given out at all, 0 to 1."""

    kind: MatterKind
    text: str
    said: str
    around: str
    owner: str | None
    since: int
    sure: float = 1.0


def subject_of(text: str) -> str:
    """A few words of a sentence, without who is to do it: "Tomas to send the drawings of the boiler by Friday" → "Send the drawings of the boiler by Friday"."""
    words: list[str] = []
    for word in _HEAD.sub("", text.strip("“”\" .")).split():
        if len(words) == _FEW or len(" ".join([*words, word])) > _LONG:
            break
        words.append(word)
    while len(words) > 1 and words[-1].lower().strip(",;:.") in _LINKS:
        words.pop()
    few = " ".join(words).strip(" ,;:.")
    return few[:1].upper() + few[1:]
