"""A board meeting: each motion with who moved it, who seconded it, and what became of it."""

from __future__ import annotations

import re
from collections.abc import Sequence

from core.reading.base import Said, first_name, table
from core.reading.owner import as_typed
from core.reading.passages.base import STRUCTURED, Detector, Passage, by_cues
from core.reading.wording import settled
from core.record.model import Record

MOVES = re.compile(
    r"\bi(?:'d| would)? (?:like to )?(?:hereby )?(?:move|propose)\b(?! on\b)|\bi(?:'ll| will) (?:move|propose)\b(?! on\b)|\bthe motion is\b|\bmotion (?:to|that)\b|"
    r"\bi put (?:it|that) to the (?:board|meeting|vote)\b"
)
JUST_MOVED = re.compile(
    r"^(?:so )?(?:moved|proposed)\b|\bi(?:'ll| will)? (?:move|propose) (?:it|that|so)\s*[.!]?$|\bhappy to (?:move|propose)\b"
)
SECONDS = re.compile(r"\b(?:i(?:'ll| will)? second(?:ed)?\b|seconded\b|happy to second\b)|^second(?:ed)?[.!]?$|^(?:and )?i second\b")
CALLS = re.compile(r"\b(?:a mover|a proposer|proposer for|mover for|who(?:'ll| will) (?:move|propose)|do i have a|can i have a)\b")
OUTCOMES: dict[str, re.Pattern[str]] = {
    "lost": re.compile(r"\b(?:motion (?:is )?(?:lost|fails|falls)|not carried|defeated|(?:that|it)(?:'s| is) lost|voted down)\b"),
    "withdrawn": re.compile(r"\b(?:i withdraw|withdrawn)\b"),
    "put off": re.compile(r"\b(?:deferred|put (?:it|that) off|adjourned|tabled|come back to (?:it|that) (?:in|at|next))\b"),
    "carried": re.compile(r"\b(?:carried|unanimous(?:ly)?|motion passe[sd]|(?:that|it)(?:'s| is) passed|nem con|all (?:those )?in favour\b.*\bthank|agreed then|approved)\b"),
}  # fmt: skip
_WITHIN = 25  # turns after a motion in which it is seconded and voted on
REPORTS = table(
    r"report\b",
    r"accounts?\b",
    r"budget\b",
    r"balance\b",
    r"surplus\b",
    r"deficit\b",
    r"reserves?\b",
    r"income\b",
    r"membership\b",
    r"apologies\b",
    r"quor(?:um|ate)\b",
    r"minutes of\b",
)


def _motions(lines: Sequence[Said], record: Record) -> list[Passage]:
    """Motions in order. What was not said (a seconder, an outcome) is not stated."""
    places = [place for place, said in enumerate(lines) if _moves(lines, place)]
    found = []
    for number, place in enumerate(places):
        until = places[number + 1] if number + 1 < len(places) else len(lines)
        mover, put = lines[place], _what_is_moved(lines, place)
        seconder, outcome, end = None, None, None
        for said in lines[place + 1 : until]:
            if said.turn - mover.turn > _WITHIN:
                break
            plain = as_typed(said.text)
            if seconder is None and said.speaker != mover.speaker and SECONDS.search(plain) and not CALLS.search(plain):
                seconder = said
            outcome = next((name for name, pattern in OUTCOMES.items() if pattern.search(plain)), None)
            if outcome:
                end = said
                break
        if seconder is None and outcome is None:
            continue  # talk of moving something, and not a motion
        parts = [f"moved by {first_name(mover.speaker)}"]
        parts += [f"seconded by {first_name(seconder.speaker)}"] if seconder else []
        parts += [outcome] if outcome else []
        rests = tuple(sorted({one.index: one for one in (put, mover, seconder, end) if one}.values(), key=lambda one: one.index))
        found.append(Passage(f"{settled(put)} — {', '.join(parts)}", rests, STRUCTURED))
    return found


def _moves(lines: Sequence[Said], place: int) -> bool:
    plain = as_typed(lines[place].text)
    return bool(JUST_MOVED.search(plain) or MOVES.search(plain)) and not lines[place].text.rstrip().endswith("?")


def _what_is_moved(lines: Sequence[Said], place: int) -> Said:
    """The line that says what is moved: the mover's own, or where that says only "moved", the last full one before it."""
    own = lines[place]
    if not JUST_MOVED.search(as_typed(own.text)) and len(own.text.split()) >= 6:
        return own
    near = [said for said in lines[max(0, place - 6) : place] if len(said.text.split()) >= (8 if CALLS.search(as_typed(said.text)) else 5)]
    return near[-1] if near else own


SUBJECTS: dict[str, Detector] = {"motions": _motions, "reports": by_cues(REPORTS, MOVES, quote=False, asked=False)}
