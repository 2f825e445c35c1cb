"""What detectors share: the lines of a record in a row, and what they find in them."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import date
from typing import Literal

from core.record.model import Line, Record

Kind = Literal["decision", "action", "question", "date", "figure"]
Status = Literal["standing", "superseded", "proposed"]
Written = Literal["writer", "rules", "quoted"]
"""What worded a finding: a language model, the rules, or whoever said it."""

# A finding at least this sure is stated; below it, it is proposed; below the second it is dropped.
STATED, PROPOSED = 0.5, 0.2


@dataclass(frozen=True, slots=True)
class Said:
    """A line in its place: `index` among all lines, the turn it is of, its number within the turn, and who says it."""

    index: int
    turn: int
    number: int
    speaker: str
    line: Line

    @property
    def text(self) -> str:
        """What is said."""
        return self.line.text

    @property
    def plain(self) -> str:
        """What is said in lower case with straight apostrophes, for word tables."""
        return self.line.text.lower().replace("’", "'")


@dataclass(frozen=True, slots=True)
class Finding:
    """Something drawn from lines. Never without a line: `said` has at least one. `confidence` is 0 to 1."""

    kind: Kind
    text: str
    said: tuple[Said, ...]
    confidence: float
    owner: str | None = None
    due: date | None = None
    status: Status = "standing"
    written: Written = "rules"

    def __post_init__(self) -> None:
        if not self.said:
            raise ValueError("a finding needs at least one line")
        if self.written == "rules" and "“" in self.text:
            object.__setattr__(self, "written", "quoted")

    @property
    def turns(self) -> list[int]:
        """Ids of the turns it rests on, in order."""
        return sorted({said.turn for said in self.said})

    @property
    def start(self) -> float:
        """Seconds at which its first line starts."""
        return min(said.line.start for said in self.said)

    @property
    def end(self) -> float:
        """Seconds at which its last line ends."""
        return max(said.line.end for said in self.said)


def all_said(record: Record) -> list[Said]:
    """Every line of a record, in order."""
    flat = [(turn, number, line) for turn in record.turns for number, line in enumerate(turn.lines)]
    return [Said(index, turn.id, number, turn.speaker, line) for index, (turn, number, line) in enumerate(flat)]


def table(*patterns: str) -> re.Pattern[str]:
    """A word table as one pattern, each entry from the start of a word on."""
    return re.compile("|".join(rf"\b(?:{pattern})" for pattern in patterns))


def first_name(name: str) -> str:
    """The name people are called by in talk; "Voice A" is nobody's name and stays whole."""
    return name if name.startswith("Voice ") or not name.strip() else name.split()[0]


_OPENERS = re.compile(
    r"^(?:(?:oh|okay|ok|right|so|well|yes|yeah|yep|and|but|then|all right|alright|good|lovely|perfect|great|fine|sure|"
    r"um|uh|erm|now|thank you|thanks|sorry|look|listen|anyway|actually|i think|i guess|i mean|you know|maybe|honestly)\b[,.!]?\s+|"
    r"no[,.!]\s+)+",  # "No heaters" says that there are none
    re.IGNORECASE,
)


def clause(text: str) -> str:
    """A sentence without the words people open with, its first letter raised, without its stop."""
    rest = _OPENERS.sub("", text).strip(" ,.;:!?–-") or text.strip(" ,.;:!?–-")
    return rest[:1].upper() + rest[1:]
