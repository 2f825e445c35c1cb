"""The book of a series: its meetings in order, and the matters that run through them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

from core.ledger.fitted import Fitted, shipped
from core.ledger.matter import CLOSING, Matter, MatterKind, Step, StepKind
from core.ledger.returns import Open, Return, returns
from core.reading.base import Finding
from core.reading.encoder import Encoder
from core.reading.reader import Read
from core.record.model import Record

SPOKEN_OF = 0.4
"""The chance from which a meeting is taken to come back to a matter."""
SURE_DONE, ALONE_DONE = 0.6, 0.5
"""How likely *done* has to be, where it is spoken of, and how sure that nothing else is spoken of there, to be proposed; else it is carried."""
FAINT = 0.2
"""The confidence from which something that was found opens a matter, to be kept where a later meeting comes back to it."""
AROUND = (3, 1)
"""Turns before and after what a matter rests on in which its subject may be named."""
_BEFORE, _AFTER = 2, 6
"""Turns around the place where a matter is spoken of in which it may be settled anew."""


@dataclass(frozen=True, slots=True)
class Came:
    """That a meeting comes back to a matter: which (its index), with what step, and the findings (their indexes) that are this step and no
    matter of their own."""

    matter: int
    step: Step
    findings: tuple[int, ...]


@dataclass(slots=True)
class _Running:
    """A matter while the book is written."""

    kind: MatterKind
    steps: list[Step]
    said: list[str]
    around: list[str]
    last: int
    faint: bool = field(default=False)


def follow(meetings: Sequence[Read], encoder: Encoder, fitted: Fitted | None = None) -> list[Matter]:
    """The matters of meetings given the oldest first: what each settled or gave out, and what the later ones say became of it."""
    running: list[_Running] = []
    for number, meeting in enumerate(meetings):
        known = [one for one in running if one.steps[-1].kind not in CLOSING]
        open_matters = [
            Open(one.kind, one.steps[-1].text, " ".join(one.said), " ".join(one.around), one.steps[-1].owner, number - one.last, 1.0 if len(one.steps) > 1 else one.steps[0].confidence) for one in known
        ]
        taken: set[int] = set()
        for came in come_back(open_matters, meeting, encoder, fitted):
            matter = known[came.matter]
            matter.steps.append(came.step)
            matter.said.append(said(meeting.record, came.step.turns))
            matter.around.append(said(meeting.record, came.step.turns, AROUND))
            matter.last = number
            taken.update(came.findings)
        for index, finding in enumerate(meeting.findings):
            if index not in taken and finding.status in ("standing", "proposed") and finding.confidence >= FAINT:
                running += [_Running(kind, [made(meeting.record.id, finding)], [said(meeting.record, finding.turns)], [said(meeting.record, finding.turns, AROUND)], number, finding.status == "proposed") for kind in _kind(finding)]
    return [Matter(one.kind, tuple(one.steps)) for one in running if not one.faint or len(one.steps) > 1]


def come_back(matters: Sequence[Open], meeting: Read, encoder: Encoder, fitted: Fitted | None = None) -> list[Came]:
    """The matters that a meeting comes back to, the surest first."""
    found = returns(matters, meeting.record.turns, meeting.turns, encoder, fitted or shipped())
    sure = [(index, one) for index, one in enumerate(found) if one.chance >= SPOKEN_OF]
    taken: set[int] = set()
    came = []
    for index, one in sorted(sure, key=lambda pair: -pair[1].chance):
        anew = [number for number in _settled_at(meeting, one, matters[index].kind) if number not in taken]
        step, used = _step(matters[index], meeting, one, anew)
        taken.update(used)
        came.append(Came(index, step, used))
    return came


def made(meeting: str, finding: Finding) -> Step:
    """The first step of a matter."""
    return Step(meeting, StepKind.MADE, tuple(finding.turns), finding.text, finding.owner, finding.due, finding.confidence)


def _kind(finding: Finding) -> Iterator[MatterKind]:
    if finding.kind in ("decision", "action"):
        yield finding.kind


def said(record: Record, turns: Sequence[int], around: tuple[int, int] = (0, 0)) -> str:
    """What is said in turns, given by their ids, and in so many before and after each."""
    at = [place for place, turn in enumerate(record.turns) if turn.id in set(turns)]
    before, after = around
    near = sorted({i for place in at for i in range(max(0, place - before), min(len(record.turns), place + after + 1))})
    return " ".join(record.turns[i].text for i in near)


def _settled_at(meeting: Read, one: Return, kind: MatterKind) -> list[int]:
    """What is found of that kind around a place, the nearest first."""
    at = {turn.id: place for place, turn in enumerate(meeting.record.turns)}
    near = []
    for number, finding in enumerate(meeting.findings):
        places = [at[turn] for turn in finding.turns if turn in at]
        if finding.kind == kind and finding.status == "standing" and places:
            distance = min(abs(place - one.place) for place in places)
            if any(one.place - _BEFORE <= place <= one.place + _AFTER for place in places):
                near.append((distance, number))
    return [number for _, number in sorted(near)]


def _step(matter: Open, meeting: Read, one: Return, anew: Sequence[int]) -> tuple[Step, tuple[int, ...]]:
    kind, sure = one.step, one.steps[one.step]
    if kind == StepKind.DONE and (sure < SURE_DONE or one.alone < ALONE_DONE):
        kind = max((other for other in one.steps if other != StepKind.DONE), key=lambda other: one.steps[other])
    record, chance = meeting.record, one.alone * sure
    turns = tuple(record.turns[place].id for place in one.places)
    if kind == StepKind.CHANGED and anew:
        settled = meeting.findings[anew[0]]
        return Step(record.id, kind, tuple(settled.turns), settled.text, settled.owner, settled.due, chance), (anew[0],)
    # What is found in the very turns is this step in other words.
    same = tuple(number for number in anew if set(meeting.findings[number].turns) & set(turns))
    text = f"“{record.turns[one.place].text}”" if kind == StepKind.CHANGED else matter.text
    return Step(record.id, kind, turns, text, matter.owner, None, chance), same
