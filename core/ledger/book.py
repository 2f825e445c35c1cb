"""The book of a series: its meetings in order, and the matters that run through them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from core.ledger.fitted import Fitted, shipped
from core.ledger.matter import CLOSING, Matter, MatterKind, Open, Step, StepKind
from core.ledger.returns import Return, returns
from core.reading.base import Finding
from core.reading.encoder import Encoder
from core.reading.reader import Read
from core.record.model import Record

SPOKEN_OF = 0.4
"""The chance from which a meeting is taken to come back to a matter."""
SURE_DONE, ALONE_DONE = 0.6, 0.5
"""How likely *done* has to be, where it is spoken of, and how sure that nothing else is spoken of there, to be proposed; else it is carried."""
FAINT = 0.25
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
    """A matter while the book is written. faint: nothing but a later meeting that comes back to it makes it one."""

    kind: MatterKind
    steps: list[Step]
    faint: bool


def follow(meetings: Sequence[Read], encoder: Encoder, fitted: Fitted | None = None) -> list[Matter]:
    """The matters of meetings given the oldest first: what each settled or gave out, and what the later ones say became of it."""
    running: list[_Running] = []
    records = [meeting.record for meeting in meetings]
    for number, meeting in enumerate(meetings):
        known = [one for one in running if one.steps[-1].kind not in CLOSING]
        taken: set[int] = set()
        for came in come_back([open_after(one.kind, one.steps, records[:number]) for one in known], meeting, encoder, fitted):
            known[came.matter].steps.append(came.step)
            taken.update(came.findings)
        for index, finding in enumerate(meeting.findings):
            if index in taken or finding.status not in ("standing", "proposed") or finding.confidence < FAINT:
                continue
            if finding.kind == "decision" or finding.kind == "action":
                running.append(_Running(finding.kind, [made(meeting.record.id, finding)], finding.status == "proposed"))
    return [Matter(one.kind, tuple(one.steps)) for one in running if not one.faint or len(one.steps) > 1]


def open_after(kind: MatterKind, steps: Sequence[Step], records: Sequence[Record]) -> Open:
    """A matter as it stands after these steps. records: all the meetings until then, the oldest first."""
    place = {record.id: number for number, record in enumerate(records)}
    spoken = [(records[place[step.meeting]], step.turns) for step in steps]
    last = steps[-1]
    since = len(records) - place[last.meeting]
    return Open(
        kind,
        last.text,
        " ".join(said(*one) for one in spoken),
        " ".join(said(*one, AROUND) for one in spoken),
        last.owner,
        since,
        1.0 if len(steps) > 1 else steps[0].confidence,
    )


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
