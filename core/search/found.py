"""Questions that ask for what was found: what was decided, who took what on, what became of a motion."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from core.reading.base import Finding, first_name
from core.reading.words import terms
from core.record.model import Participant

_DECIDED = re.compile(r"\b(?:decid\w*|decisions?|settl\w*|resolv\w*|agree(?:d|ments?) (?:on|about|to|upon|with)|come to)\b|\bwhat (?:was|did \w+) agree")
_TAKEN_ON = re.compile(
    r"\b(?:promis\w*|commit(?:ted)? to|t(?:ake|akes|aken|ook) on|sign(?:ed)? up|(?:has|have|had|is|are|was|supposed|meant|going) to do|to[- ]dos?|action(?: item)?s?|tasks?)\b|"
    r"^who(?:'s| is| are| will| has to| have to| is going to| was going to)\b"
)
_MOVED = re.compile(r"\b(?:motions?|carried|amendments?|resolutions?|votes?|voted)\b")
_ASKING = set(terms("decide decided decision settle settled resolve resolved agree agreed promise promised committed action actions task tasks motion carried vote voted resolution amendment going supposed meant board meeting group team"))
"""Words that say what is asked for, and not what it is about."""
LEAST = 0.5
"""The share of the question's own words, by rarity, that has to be around a finding."""
MOST = 8
"""Findings of an answer, where all of a kind are asked for."""


@dataclass(frozen=True, slots=True)
class Asked:
    """What of the findings is asked for: which they may be, and the words that say what about."""

    wanted: Callable[[Finding], bool]
    about: frozenset[str]
    all_of: bool


def asks_for(question: str, people: Sequence[Participant]) -> Asked | None:
    """None for a question that is not about decisions, actions or motions. `all_of`: no subject is named, so that each of them answers."""
    plain = question.lower().replace("’", "'")
    named = [one.name for one in people if re.search(rf"\b(?:{re.escape(one.name.lower())}|{re.escape(first_name(one.name).lower())})\b", plain)]
    about = frozenset(terms(plain)) - _ASKING - {term for name in named for term in terms(name)}
    if _MOVED.search(plain):
        return Asked(lambda one: one.kind == "decision" and any(_MOVED.search(said.plain) for said in one.said), about, not about)
    if _DECIDED.search(plain):
        return Asked(lambda one: one.kind == "decision", about, not about)
    if _TAKEN_ON.search(plain):
        whose = set(named)
        return Asked(lambda one: one.kind == "action" and (not whose or one.owner in whose), about, not about and bool(whose))
    return None
