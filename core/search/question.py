"""What a question asks for: how often something came up, what one person said, or the lines that answer it; and what it goes on from."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from core.reading.base import first_name
from core.reading.words import terms
from core.record.model import Participant

_HOW_OFTEN = r"\bhow (?:often|many times|frequently)\b"
_COUNTS = (
    re.compile(
        rf"{_HOW_OFTEN} (?:did|does|was|is|were|are|has|have) (?P<about>.+?) (?:been )?(?:come|came|mentioned|named|said|raised|discussed)\b(?: up)?\W*$"
    ),
    re.compile(
        rf"{_HOW_OFTEN}.*?\b(?:mention\w*|say|said|says|(?:talk|speak|spoke)\w* (?:about|of)|bring up|brought up|raise\w*|discuss\w*|ask\w*(?: about| for)?|"
        r"name\w*|refer\w* to|use\w*)\b(?P<about>.*)"
    ),
)
"""Asks for a count of what was said, and not for a number that was said."""
_VERBS = (
    r"(?:say|says|said|saying|think|thinks|thought|mention\w*|promise\w*|ask\w*|want\w*|offer\w*|object\w*|propos\w*|suggest\w*|agree\w*|answer\w*|explain\w*|tell|tells|told|talk\w*|"
    r"complain\w*|report\w*|warn\w*|raise\w*|bring|brought|speak|spoke|use\w*|name[ds]?|discuss\w*|refer\w*)"
)
_GOES_BY = r"\b(?:did|does|do|has|have|according to) (?:the )?{name}\b(?=.*\b{verbs}\b)|\baccording to (?:the )?{name}\b|\b{name}(?:'s| has| had| have)? (?:\w+ly )?{verbs}\b"
"""How a question names somebody as the one who speaks, and not as what is spoken of."""
_GOES_ON = re.compile(r"^(?:and|but|so|then|what about|how about|why|when|who|where|how much|how many)\b")
_PRONOUN = re.compile(r"\b(?:it|that|this|they|them|those|these|there)\b")
_SHE = re.compile(r"\b(?:she|he|her|him|his|hers)\b")


@dataclass(frozen=True, slots=True)
class Question:
    """A question, understood. `text`: what is looked for; `speakers`: whose words alone count (empty: anyone's); `counted`: what is to be counted, "" where nothing is."""

    text: str
    speakers: tuple[str, ...] = ()
    counted: str = ""


def understand(text: str, people: Sequence[Participant], before: Question | None = None) -> Question:
    """people: those present, with roles. before: the question that this one goes on from."""
    plain = text.lower().replace("’", "'")
    speakers = _speakers(plain, people)
    if not speakers and before and _SHE.search(plain):
        speakers = before.speakers
    counts = next((found for pattern in _COUNTS if (found := pattern.search(plain))), None)
    if counts:
        about = _without_names(counts["about"], speakers)
        if not terms(about) and before:
            about = before.counted or " ".join(word for word in _without_names(before.text, before.speakers).split() if terms(word))
        return Question(text, speakers, about.strip(" ?.,"))
    asked = Question(text, speakers)
    if before and (_PRONOUN.search(plain) or len(terms(plain)) < 2 and _GOES_ON.search(plain)):
        # What "it" is was said in the question before.
        asked = replace(asked, text=f"{text} ({before.text})")
    return asked


def understand_last(thread: Sequence[str], people: Sequence[Participant]) -> Question:
    """The last of some questions that go on from one another, the first one first."""
    *before, last = thread
    return understand(last, people, understand_last(before, people) if before else None)


def _speakers(plain: str, people: Sequence[Participant]) -> tuple[str, ...]:
    """Everyone a question names as the one who speaks: by first name, full name or role."""

    def speaks(called: str) -> bool:
        if re.search(rf"\b(?:was|were|is|are) (?:the )?{re.escape(called.lower())}\b", plain):
            return False
        return bool(re.search(_GOES_BY.format(name=re.escape(called.lower()), verbs=_VERBS), plain))

    by_name = [one.name for one in people if speaks(one.name) or speaks(first_name(one.name))]
    return tuple(by_name or [one.name for one in people if one.role and any(speaks(word) for word in _roles(one.role))])


def _roles(role: str) -> list[str]:
    """A role, and what one calls somebody by it: "Contracts manager (bus company)" → that, "contracts manager", "bus company", "manager", "company"."""
    parts = [part.strip().lower() for part in re.split(r"[(),/]", role) if part.strip()]
    return [role.lower(), *parts, *(part.split()[-1] for part in parts)]


def _without_names(text: str, speakers: Sequence[str]) -> str:
    names = {part.lower() for name in speakers for part in name.split()}
    return " ".join(word for word in text.split() if word.strip("?.,'s") not in names)
